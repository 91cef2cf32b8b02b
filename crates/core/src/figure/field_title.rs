//! Plain titles of the inputs that figures miss: a person is told what to enter, and not a path.

use std::borrow::Cow;
use std::collections::BTreeMap;

use crate::library::SheetKind;

/// Inputs of a job, of a test and of the quick sums.
static TITLES: [(&str, &str); 137] = [
    ("amps", "current of the circuit"),
    ("device.current", "what current the device is made for"),
    ("node.place", "where it stands"),
    ("panel.supply_side.circuits", "which circuits are connected before the main"),
    ("unit.max_ocpd_a", "largest overcurrent device of a branch"),
    ("way.earth", "earth wire of the way"),
    ("branch.breaker_a", "breaker of the branch"),
    ("branch.modules", "modules of the branch on the map"),
    ("branches", "branches"),
    ("cell_c, back_c or ambient_c", "a temperature"),
    ("circuit.ambient_c", "air around the circuit"),
    ("circuit.ampacity_a", "size of the conductor"),
    ("circuit.legs", "legs of the circuit"),
    ("circuit.to.node", "where the circuit ends"),
    ("circuit.to.device", "device the circuit comes to"),
    ("circuit.ocpd_a", "overcurrent device of the circuit"),
    ("device.lockable", "whether the switch can be locked open"),
    ("device.visible", "whether its contacts are seen to be open"),
    ("device.ways_n", "width of the device, in ways"),
    ("face.box_mm", "place of the box on the face"),
    ("face.eave_m", "width of the face at the eave"),
    ("face.module", "module of the face"),
    ("face.slope_m", "length of the face up the slope"),
    ("inverters", "an inverter"),
    ("irradiance_w_m2", "irradiance"),
    ("panel.breaking_ka", "interrupting rating of the panel"),
    ("panel.bus_a", "rating of the busbar"),
    ("panel.load_breakers_a", "breakers of the loads"),
    ("panel.load_calc_a", "calculated load of the panel"),
    ("panel.main_a", "main breaker of the panel"),
    ("node.backing_board", "whether a board is behind the inverter"),
    ("node.free_depth_mm", "free depth before the panel"),
    ("node.free_height_mm", "free height before the panel"),
    ("node.free_width_mm", "free width before the panel"),
    ("node.in_sight", "whether the isolator is seen from the inverter"),
    ("node.to_inverter_m", "distance from the isolator to the inverter"),
    ("node.wall_burns", "whether the wall behind the inverter burns"),
    ("node.clamps", "whether there are clamps in the box"),
    ("node.depth_mm", "depth of the box"),
    ("node.length_mm", "length of the box"),
    ("node.stands_on_mm", "height of what the box stands on"),
    ("node.straight", "whether it is pulled straight through the box"),
    ("node.volume_in3", "room of the box"),
    ("places", "places for the inverter"),
    ("places.ac_m", "AC length to the place"),
    ("places.dc_m", "DC length to the place"),
    ("plan", "the plan"),
    ("plan.circuits", "circuits of the plan"),
    ("ra_ohm", "resistance of the earth electrode"),
    ("raceway.size", "size of the raceway"),
    ("rails.piece_m", "length of a piece of rail"),
    ("rcd_ma", "current of the RCD"),
    ("readings", "a reading"),
    ("readings_v", "readings"),
    ("roof.crossing", "where the string crosses to the other face"),
    ("run.length_m", "length of the run"),
    ("run.segments", "parts of the run"),
    ("runs", "a run"),
    ("segment.roof_clearance_mm", "height above the roof"),
    ("settings.fire_paths", "whether paths are kept for the fire service"),
    ("stock.length_m", "length of the cable that is there"),
    ("stock.sound", "whether the cable that is there was looked over"),
    ("way.bundle_earth", "ground inside the cable"),
    ("site.building", "kind of building"),
    ("site.dc_enters", "kind of building the DC enters"),
    ("site.dc_ceiling_v", "DC ceiling of the building"),
    ("site.latitude_deg", "latitude of the site"),
    ("site.module_clearance_mm", "free height below the modules"),
    ("site.mounting", "how the array is mounted"),
    ("site.t_max_c", "2 % high ambient"),
    ("site.t_min_c", "lowest expected ambient"),
    ("string.modules", "modules of the string on the map"),
    ("strings", "a string"),
    ("trunk.reel_n", "sections on the reel of trunk cable"),
    ("trunk.section_ohm", "resistance of a section of trunk cable"),
    ("volts", "volts of the circuit"),
    ("way.parts.insulated", "whether the way lies in insulation"),
    ("way.parts.length_m", "length of the part of the way"),
    ("way.parts.bends", "bends of the part of the way"),
    ("way.parts.bends.radius_mm", "radius of the bend"),
    ("way.parts.cover_mm", "earth over the part of the way"),
    ("way.parts.listed", "whether it is listed for the place"),
    ("way.parts.place", "place of the part of the way"),
    ("way.parts.rise_m", "how much the part of the way rises"),
    ("way.parts.under_drive", "whether the way lies under a drive"),
    ("wire.awg", "size of the wire"),
    ("wire.mm2", "section of the wire"),
    ("device.amps_a", "rating of the device"),
    ("device.breaking_ka", "interrupting rating of the device"),
    ("device.ct.entered_a", "ratio entered in the meter"),
    ("device.ct.measures", "what the transformer measures"),
    ("device.ct.primary_a", "ratio printed on the transformer"),
    ("device.ct.toward_grid", "the way the transformer's arrow points"),
    ("device.ct.wanted_toward_grid", "the way the meter wants the arrow"),
    ("device.poles_n", "poles of the device"),
    ("device.rcd", "type of the residual-current device"),
    ("device.rcd_ma", "rated residual current"),
    ("device.trip_times", "trip curve of the breaker"),
    ("device.volts_v", "volts the device is for"),
    ("node.devices", "devices in the node"),
    ("node.earthed.electrode", "whether an electrode is connected at the panel"),
    ("node.entries_n", "entry holes of the enclosure"),
    ("node.entry_mm", "widest entry hole of the enclosure"),
    ("panel.loads.cooling_va", "cooling, in the load calculation"),
    ("panel.loads.floor_m2", "floor, in the load calculation"),
    ("panel.loads.heating_va", "heating, in the load calculation"),
    ("panel.loads.small_circuits_n", "circuits for small appliances, in the load calculation"),
    ("panel.pv_at_one_end", "whether the PV breaker sits at one end of the bus"),
    ("panel.service_a", "rating of the service"),
    ("panel.taken_n", "ways taken by loads"),
    ("panel.to_device_m", "distance from the connection to its device"),
    ("panel.ways_n", "ways of the panel"),
    ("protection.backup.board", "board of the backup output"),
    ("protection.backup.electrode", "electrode of the backup output"),
    ("protection.backup.fault_a", "current the backup output drives into a fault"),
    ("protection.backup.neutral_earthed", "whether the backup's neutral is earthed"),
    ("protection.earthing", "how the supply is earthed"),
    ("protection.fault_ka", "fault current of the supply"),
    ("protection.flashes_per_km2", "flashes to ground a year"),
    ("protection.lightning_protection", "whether there is lightning protection"),
    ("protection.ra_ohm", "resistance of the electrode"),
    ("protection.shutdown", "what does the rapid shutdown"),
    ("protection.shutdown_inside_v", "volts inside the array after the shutdown"),
    ("protection.shutdown_outside_v", "volts outside the array after the shutdown"),
    ("protection.starter", "starter of the rapid shutdown"),
    ("protection.surge_site", "what the system stands on"),
    ("protection.ze_ohm", "impedance of the loop outside"),
    ("rails.clamps_bond", "whether the clamps bond frames and rails"),
    ("unit.mount_bonds", "whether the mount bonds the unit"),
    ("demand.breaker_will_do", "whether a breaker will do as the disconnect"),
    ("demand.evidence", "where it is written"),
    ("demand.limit_w", "limit of what is sent to the grid"),
    ("demand.met", "whether somebody looked and found it met"),
    ("demand.said_by", "who said it"),
    ("demand.said_on", "when it was said"),
    ("settings.fire_paths", "whether paths are kept free on the roof"),
    ("zs_ohm", "loop impedance"),
];

/// Titles by field: those of the data sheets, and those of the job.
pub fn field_titles() -> BTreeMap<String, String> {
    let mut titles: BTreeMap<String, String> =
        TITLES.iter().map(|(field, title)| ((*field).to_owned(), (*title).to_owned())).collect();
    for kind in SheetKind::ALL {
        for field in kind.fields() {
            let own = field.key.trim_start_matches("ratings.").replace(".*.", ".");
            let sheet = match kind {
                SheetKind::Micro => "microinverter",
                other => other.word(),
            };
            let title = format!("{} (data sheet of the {sheet})", field.title);
            // Rules name a field of an input with its list, or as one of the inverter.
            let short = own.trim_start_matches("mppts.").to_owned();
            titles.insert(format!("{}.{short}", kind.word()), title.clone());
            titles.insert(format!("{}.{own}", kind.word()), title);
        }
    }
    titles
}

/// The plain title of a field; what stands in no list is said by its last part.
pub fn field_title(field: &str) -> Cow<'static, str> {
    static KNOWN: std::sync::LazyLock<BTreeMap<String, String>> =
        std::sync::LazyLock::new(field_titles);
    if let Some(title) = KNOWN.get(field) {
        return Cow::Borrowed(title);
    }
    let last = field.rsplit('.').next().unwrap_or(field);
    Cow::Owned(last.replace('_', " "))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::job::{Job, read};
    use crate::library::Library;
    use crate::school::School;

    #[test]
    fn data_sheets_and_the_job_say_what_is_missing_in_words() {
        assert_eq!(field_title("site.t_min_c"), "lowest expected ambient");
        let voc = field_title("module.voc_v");
        assert!(voc.ends_with("(data sheet of the module)"), "{voc}");
        assert!(field_title("inverter.mppt_isc_max_a").contains("data sheet of the inverter"));
        assert!(field_title("inverter.mppts.connectors_n").contains("data sheet of the inverter"));
        assert_eq!(field_title("somewhere.deep_in"), "deep in");
    }

    /// Every field that jobs miss has a title of its own; jobs are emptied field by field.
    #[test]
    fn what_jobs_miss_has_a_title() {
        let known = field_titles();
        let mut without: Vec<&str> = Vec::new();
        let mut look = |job: &Job, library: &Library| {
            let report = crate::evaluate(job, library, &[]);
            let missing = report.figures.iter().flat_map(|f| &f.missing);
            let missing = missing.chain(report.checks.iter().flat_map(|c| &c.missing));
            without.extend(missing.copied().filter(|f| !known.contains_key(*f)));
        };
        for school in [School::Na, School::Iec] {
            look(&Job::new("x", school), &Library::default());
        }
        for text in [
            include_str!("../../../../data/demo/quarry-cottage.json"),
            include_str!("../../../../data/demo/kestrel-lane.json"),
            include_str!("../../../../data/demo/pinyon-street.json"),
            include_str!("../../../../data/demo/saltmarsh-nursery.json"),
            include_str!("../../../../data/demo/tern-bay.json"),
        ] {
            let file = read(text).expect("a demo job reads").file;
            look(&file.job, &file.library);
            let mut bare = file.library.clone();
            for m in &mut bare.modules {
                m.ratings = Default::default();
            }
            for i in &mut bare.inverters {
                for m in &mut i.mppts {
                    m.mppt_isc_max_a = None;
                    m.mppt_imp_max_a = None;
                }
                (i.vdc_max_v, i.ac_a, i.ac_w, i.dc_w_max_w) = (None, None, None, None);
            }
            look(&file.job, &bare);
            let mut job = file.job.clone();
            job.site.t_min_c = None;
            job.site.t_max_c = None;
            job.site.mounting = None;
            job.site.building = None;
            job.site.latitude_deg = None;
            for way in job.plan.ways.values_mut() {
                for part in &mut way.parts {
                    part.length_m = None;
                    part.place = None;
                }
            }
            for circuit in job.plan.circuits.values_mut() {
                for leg in &mut circuit.legs {
                    leg.wire.awg = None;
                    leg.wire.mm2 = None;
                }
            }
            for node in job.plan.nodes.values_mut() {
                if let Some(panel) = &mut node.panel {
                    (panel.bus_a, panel.main_a) = (None, None);
                }
            }
            look(&job, &file.library);
        }
        without.sort_unstable();
        without.dedup();
        assert!(without.is_empty(), "{without:?}");
    }
}
