//! What data sheets say of devices and enclosures, filled in where the plan itself says nothing.

use crate::job::{Device, DeviceKind, Node, Plan};
use crate::library::{Library, SheetRef};

fn put<T: Copy>(own: &mut Option<T>, sheet: Option<T>) {
    *own = own.or(sheet);
}

/// A rating that sheet and entry put differently is not known.
fn one(own: &mut Option<f64>, sheet: Option<f64>) {
    *own = match (*own, sheet) {
        (Some(entered), Some(printed)) if entered != printed => None,
        (entered, printed) => entered.or(printed),
    };
}

/// Fills in the ratings of every device and the room of every enclosure.
pub(super) fn fill(plan: &mut Plan, library: &Library) {
    for node in plan.nodes.values_mut() {
        enclosure(node, library);
        for device in node.devices.values_mut() {
            if let Some(sheet) = device.sheet.clone() {
                rate(device, &sheet, library);
            }
        }
    }
}

fn enclosure(node: &mut Node, library: &Library) {
    let Some(sheet) = &node.enclosure else { return };
    let own = library.enclosure(sheet);
    let room = own.map(|e| (e.rails_n, e.rail_ways_n, e.entries_n, e.entry_mm));
    let combiner = library.combiner(sheet);
    let room = room.or(combiner.map(|c| (c.rails_n, c.rail_ways_n, c.entries_n, c.entry_mm)));
    let Some((rails, ways, entries, entry_mm)) = room else { return };
    let rails_n = rails.map(|n| n as u32);
    put(&mut node.ways_n, rails.zip(ways).map(|(rails, ways)| rails * ways));
    put(&mut node.rails_n, rails_n);
    put(&mut node.entries_n, entries.map(|n| n as u32));
    put(&mut node.entry_mm, entry_mm);
}

fn rate(device: &mut Device, sheet: &SheetRef, library: &Library) {
    match device.what {
        DeviceKind::Breaker | DeviceKind::Rcd => {
            let Some(s) = library.breaker(sheet) else { return };
            one(&mut device.amps_a, s.amps_a);
            put(&mut device.volts_v, s.volts_v);
            put(&mut device.poles_n, s.poles_n);
            put(&mut device.breaking_ka, s.breaking_ka);
            put(&mut device.trip_times, s.trip_times);
            put(&mut device.ways_n, s.ways_n);
            put(&mut device.lockable, Some(s.lockable));
            put(&mut device.visible, Some(s.visible));
        }
        DeviceKind::Fuse => {
            let Some(s) = library.fuse(sheet) else { return };
            one(&mut device.amps_a, s.amps_a);
            put(&mut device.volts_v, s.volts_v);
            put(&mut device.breaking_ka, s.breaking_ka);
            put(&mut device.ways_n, s.ways_n);
        }
        DeviceKind::Isolator | DeviceKind::ShutdownStarter => {
            let Some(s) = library.isolator(sheet) else { return };
            one(&mut device.amps_a, s.amps_a);
            put(&mut device.volts_v, s.volts_v);
            put(&mut device.poles_n, s.poles_n);
            put(&mut device.ways_n, s.ways_n);
            put(&mut device.lockable, Some(s.lockable));
            put(&mut device.visible, Some(s.visible));
        }
        DeviceKind::SurgeDevice => {
            let Some(s) = library.surge(sheet) else { return };
            put(&mut device.volts_v, s.ucpv_v);
            put(&mut device.ways_n, s.ways_n);
        }
        DeviceKind::Bus
        | DeviceKind::EarthBar
        | DeviceKind::Meter
        | DeviceKind::CurrentTransformer => {}
    }
}
