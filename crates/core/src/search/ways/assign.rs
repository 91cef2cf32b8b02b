//! Picks dealt out over the inverters, evenly, and inside the limit of each.

use super::setup::Setup;
use crate::quantity::{above, floor};
use crate::search::deal::{Deal, Group};
use crate::search::layout::Choice;

/// Steps of the search that deals inputs out over inverters with a limit of their own.
const ASSIGN_STEPS: u32 = 4000;

/// An input with what it takes.
pub(super) struct Assigned<'a> {
    /// Inverter by index.
    pub inverter: usize,
    /// The input, from 1.
    pub mppt: u32,
    pub choice: &'a Choice,
    /// Strings by face.
    pub strings: Vec<(usize, u32)>,
}

struct Load<'a> {
    class: usize,
    choice: &'a Choice,
    modules: u32,
    strings: Vec<(usize, u32)>,
}

struct Assign {
    /// Free inputs by class and inverter.
    free: Vec<Vec<usize>>,
    /// Modules on each inverter.
    placed: Vec<u32>,
}

impl Setup<'_> {
    pub(super) fn assigned(&self, deal: &Deal, keep_caps: bool) -> Option<Vec<Assigned<'_>>> {
        self.assigned_of(&self.groups, deal, keep_caps)
    }

    /// Deals the picks out over the inverters, evenly: inverter, input, choice, strings by face.
    /// None where an inverter would be overloaded however it is done (or no way was found in the
    /// steps there are).
    pub(super) fn assigned_of(
        &self,
        groups: &[Group],
        deal: &Deal,
        keep_caps: bool,
    ) -> Option<Vec<Assigned<'_>>> {
        let mut loads: Vec<Load> = Vec::new();
        for (group, picks) in groups.iter().zip(&deal.picks) {
            for pick in picks.iter().map(|p| &group.picks[*p]) {
                let strings = group
                    .faces
                    .iter()
                    .copied()
                    .zip(pick.strings_n.iter().copied())
                    .filter(|(_, n)| *n > 0)
                    .collect();
                loads.push(Load {
                    class: pick.class,
                    choice: &self.classes[pick.class].choices[pick.choice],
                    modules: pick.modules(),
                    strings,
                });
            }
        }
        loads.sort_by_key(|l| std::cmp::Reverse(l.modules));
        let free: Vec<Vec<usize>> = self
            .classes
            .iter()
            .map(|c| {
                (0..self.inverters.len())
                    .map(|i| c.inputs.iter().filter(|(own, _)| *own == i).count())
                    .collect()
            })
            .collect();
        let caps: Vec<f64> = self
            .inverters
            .iter()
            .map(|(_, s)| {
                s.dc_w_max_w.filter(|_| keep_caps).map_or(f64::INFINITY, |w| floor(w / self.pmax_w))
            })
            .collect();
        let mut steps = ASSIGN_STEPS;
        let mut at = Vec::new();
        let mut state = Assign { free, placed: vec![0; self.inverters.len()] };
        if !place(&loads, &caps, &mut state, &mut at, &mut steps) {
            return None;
        }
        let mut by_inverter: Vec<(usize, Load)> = at.into_iter().zip(loads).collect();
        by_inverter.sort_by(|(a, x), (b, y)| {
            (a, x.class, &x.strings, std::cmp::Reverse(x.choice.n)).cmp(&(
                b,
                y.class,
                &y.strings,
                std::cmp::Reverse(y.choice.n),
            ))
        });
        let mut taken: Vec<Vec<usize>> = vec![vec![0; self.inverters.len()]; self.classes.len()];
        let mut uses = Vec::new();
        for (inverter, load) in by_inverter {
            let own: Vec<u32> = self.classes[load.class]
                .inputs
                .iter()
                .filter(|(i, _)| *i == inverter)
                .map(|(_, m)| *m)
                .collect();
            let number = own[taken[load.class][inverter]];
            taken[load.class][inverter] += 1;
            uses.push(Assigned {
                inverter,
                mppt: number,
                choice: load.choice,
                strings: load.strings,
            });
        }
        uses.sort_by_key(|u| (u.inverter, u.mppt));
        Some(uses)
    }
}

/// Places the loads from the `at.len()`-th on, the emptiest inverter first.
fn place(
    loads: &[Load],
    caps: &[f64],
    state: &mut Assign,
    at: &mut Vec<usize>,
    steps: &mut u32,
) -> bool {
    let Some(load) = loads.get(at.len()) else { return true };
    let mut order: Vec<usize> =
        (0..caps.len()).filter(|i| state.free[load.class][*i] > 0).collect();
    order.sort_by_key(|i| (state.placed[*i], *i));
    let mut tried: Vec<(u32, f64, Vec<usize>)> = Vec::new();
    for i in order {
        if *steps == 0 {
            return false;
        }
        // Inverters that stand alike so far are tried once.
        let like = (state.placed[i], caps[i], state.free.iter().map(|f| f[i]).collect::<Vec<_>>());
        if above(f64::from(state.placed[i] + load.modules), caps[i]) || tried.contains(&like) {
            continue;
        }
        tried.push(like);
        *steps -= 1;
        state.free[load.class][i] -= 1;
        state.placed[i] += load.modules;
        at.push(i);
        if place(loads, caps, state, at, steps) {
            return true;
        }
        at.pop();
        state.free[load.class][i] += 1;
        state.placed[i] -= load.modules;
    }
    false
}
