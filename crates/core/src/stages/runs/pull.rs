//! The pull through a raceway from one pull point to the next: bends, length, the tension at the
//! end and the pressure on the wall of each bend, from either end.

use serde::Deserialize;

use crate::figure::{Against, Bound, Check, Def, Handle, Sheet, Value, Verdict, Working};
use crate::figures;
use crate::quantity::{Degrees, Metres, Newtons, NewtonsPerMetre, Ratio, above, below};
use crate::school::School;
use crate::traced::{Short, Traced, exact, sum};

figures! { Runs;
    /// All bends between two pull points.
    BENDS: Degrees = "raceway.bend_deg",
        "Bends between pull points", na "358.26, 344.26, 352.26", iec "workshop practice";
    /// All straights between two pull points.
    LENGTH: Metres = "raceway.pull_length_m", "Length of the pull", "setting";
    /// Tension at the far end.
    TENSION: Newtons = "raceway.pull_tension_n", "Tension, pulled from its end", "wire maker";
    /// Tension pulled from the beginning.
    REVERSE: Newtons =
        "raceway.pull_tension_reverse_n", "Tension, pulled from its beginning", "wire maker";
    /// Largest pressure on the wall of a bend.
    SIDEWALL: NewtonsPerMetre =
        "raceway.sidewall_n_per_m", "Pressure on the wall of a bend", "wire maker";
    /// The same pulled from the beginning.
    SIDEWALL_REVERSE: NewtonsPerMetre = "raceway.sidewall_reverse_n_per_m",
        "Pressure on the wall, pulled from its beginning", "wire maker";
    /// What the conductors bear.
    LIMIT: Newtons = "raceway.pull_limit_n", "Tension the conductors bear", "wire maker";
    /// The easier end.
    DIRECTION: Word = "raceway.pull_direction", "Easier way to pull", "wire maker";
    /// Whether one of the two ways to pull holds.
    PULL: Rule = "raceway.pull", "Will it pull", "wire maker";
}

/// The figures of which the lesser is the tension of the easier end.
pub(super) fn tensions() -> [&'static str; 2] {
    [TENSION.id, REVERSE.id]
}

/// Friction where nobody set another: dry wire in a raceway.
pub const FRICTION: f64 = 0.5;

/// Length of a pull from which on it is hard, m.
pub const LONGEST_M: f64 = 30.0;

/// Largest pressure on the wall of a bend, N/m.
const SIDEWALL_MOST: f64 = 4400.0;

/// Tension a conductor bears by its copper, N/mm².
const PER_MM2: f64 = 70.0;

/// Share of it where more than three are pulled together.
const MORE_THAN_THREE: f64 = 0.8;

/// A part of the path: a straight or a bend.
#[derive(Clone, Copy, Debug, Default, PartialEq, Deserialize)]
#[serde(deny_unknown_fields, default)]
pub struct PullPart {
    /// Length of a straight, m.
    pub straight_m: Option<f64>,
    /// Its slope, up in the pulling direction, -90 to 90 °; level where absent.
    pub slope_deg: Option<f64>,
    /// Angle of a bend, °.
    pub bend_deg: Option<f64>,
    /// Its radius, m.
    pub radius_m: Option<f64>,
}

/// A pull.
#[derive(Clone, Debug, Default, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct PullInputs {
    /// From the feed to the pulling end.
    pub path: Vec<PullPart>,
    /// Length above which it is a caution, m; 30 where absent.
    #[serde(default)]
    pub length_limit_m: Option<f64>,
    /// Weight of all cables, N/m.
    #[serde(default)]
    pub w_n_per_m: Option<f64>,
    /// Friction; 0.5 where absent.
    #[serde(default)]
    pub mu: Option<f64>,
    /// Copper of each conductor, mm².
    #[serde(default)]
    pub copper_mm2: Option<f64>,
    /// How many are pulled.
    #[serde(default)]
    pub conductors_n: Option<u32>,
}

impl PullInputs {
    /// The same pulled from the other end.
    fn reversed(&self) -> Self {
        let turned = |p: &PullPart| PullPart { slope_deg: p.slope_deg.map(|s| -s), ..*p };
        PullInputs { path: self.path.iter().rev().map(turned).collect(), ..self.clone() }
    }

    /// Tension at the end, and after each bend with its radius.
    fn tension(&self, w: &mut Working, school: School) -> Option<(Traced<Newtons>, Vec<Pressed>)> {
        // What is pulled weighs nothing known as long as a wire is open.
        let wire = school.wire_field();
        let weight = w.need::<NewtonsPerMetre>("w", self.w_n_per_m, wire, "all that is pulled");
        let mu = w.given("friction", Ratio(self.mu.unwrap_or(FRICTION)), "setting");
        let weight = weight?;
        let mut t = w.exact::<Newtons>(0.0);
        let mut pressed = Vec::new();
        let mut bends = 0;
        for part in &self.path {
            if let Some(deg) = part.bend_deg {
                bends += 1;
                let factor = (mu.clone() * exact::<Ratio>(deg.to_radians())).exp();
                t = w.step(format_args!("behind bend {bends}"), t * factor);
                pressed.push((t.clone(), part.radius_m));
            } else {
                let Some(m) = part.straight_m else {
                    w.lack("way.parts.length_m");
                    return None;
                };
                let metres = exact::<Metres>(m);
                let factor = match part.slope_deg.unwrap_or(0.0) {
                    0.0 => mu.clone(),
                    slope => {
                        let slope = w.exact::<Degrees>(slope);
                        mu.clone() * slope.clone().cos() + slope.sin()
                    }
                };
                let pulled = t + weight.clone() * metres * factor;
                // Downhill the cables may run by themselves; they do not push.
                let pulled = if pulled.value.0 < 0.0 { pulled.max(exact(0.0)) } else { pulled };
                t = w.step(format_args!("after {} m", Short(m)), pulled);
            }
        }
        Some((t, pressed))
    }

    /// Largest pressure on the wall; none of it where nothing bends. The tensions it rests on are
    /// worked out in the figure of `tension`.
    fn sidewall(
        w: &mut Working,
        tension: &Handle<Newtons>,
        pressed: Option<Vec<Pressed>>,
    ) -> Option<Traced<NewtonsPerMetre>> {
        let Some(pressed) = pressed else {
            tension.missing().iter().for_each(|field| w.lack(field));
            return None;
        };
        let mut most = exact::<NewtonsPerMetre>(0.0);
        for (k, (t, radius)) in pressed.into_iter().enumerate() {
            let t = w.given(format_args!("behind bend {}", k + 1), t.value, tension.id());
            let r = w.need::<Metres>("r", radius, "way.parts.bends.radius_mm", "bend")?;
            let own = w.step("pressure", t / r);
            if own.value.0 > most.value.0 {
                most = own;
            }
        }
        Some(most)
    }
}

/// Tension behind a bend, and the bend's radius, m.
type Pressed = (Traced<Newtons>, Option<f64>);

/// The two ways to pull, with what the conductors bear where it is known.
struct Both {
    forward: OneWay,
    reverse: OneWay,
    limit: Option<Handle<Newtons>>,
}

/// Figures and checks of a pull by itself: each way to pull is judged.
pub fn pull(sheet: &mut Sheet, x: &PullInputs) {
    let both = figures(sheet, x);
    for tension in [&both.forward.tension, &both.reverse.tension] {
        if let Some(limit) = &both.limit {
            sheet.hold(tension, Bound::at_most(limit, BEAR), Verdict::Fail);
        }
    }
    sheet.hold(&both.forward.pressure, Bound::at_most(SIDEWALL_MOST, "on a wall"), Verdict::Fail);
}

/// Figures of a pull of a job, and whether it pulls: from one end is enough. The easier end is held
/// against what the conductors bear.
pub(super) fn pull_of_job<'s>(sheet: &'s mut Sheet, x: &PullInputs) -> &'s mut Check {
    let both = figures(sheet, x);
    let (there, back) = (both.verdict(&both.forward), both.verdict(&both.reverse));
    let (own, verdict) = if back < there { (&both.reverse, back) } else { (&both.forward, there) };
    let wire = sheet.school.wire_field();
    let limit = both.limit.as_ref().map_or((None, wire).into(), Against::from);
    let bound = Bound::at_most(limit, BEAR);
    let check = sheet.hold_as(&PULL, &own.tension, bound, Verdict::Fail);
    check.verdict = verdict;
    check.misses(own.pressure.missing().to_vec());
    check.reason("Tension or pressure on the wall of a bend is too high from either end.")
}

const BEAR: &str = "the conductors bear";

impl Both {
    /// What a way to pull comes to: its tension and the wall of its bends.
    fn verdict(&self, way: &OneWay) -> Verdict {
        let most = self.limit.as_ref().and_then(Handle::value);
        let word = |value: Option<f64>, most: Option<f64>| match value.zip(most) {
            None => Verdict::Unknown,
            Some((value, most)) if above(value, most) => Verdict::Fail,
            Some(_) => Verdict::Pass,
        };
        word(way.tension.value(), most).max(word(way.pressure.value(), Some(SIDEWALL_MOST)))
    }
}

fn figures(sheet: &mut Sheet, x: &PullInputs) -> Both {
    bends(sheet, x);
    let length = sheet.figure(&LENGTH, |w| {
        let straights = x.path.iter().filter(|p| p.bend_deg.is_none());
        let each = straights
            .map(|p| w.need::<Metres>("straight", p.straight_m, "way.parts.length_m", "measured"));
        sum(each.collect::<Vec<_>>()).or_else(|| {
            let none = x.path.iter().all(|p| p.bend_deg.is_some());
            none.then(|| exact(0.0))
        })
    });
    let most = x.length_limit_m.unwrap_or(LONGEST_M);
    sheet
        .hold(&length, Bound::at_most(most, "for one pull"), Verdict::Warn)
        .beyond(|over| format!("{over} longer than one pulls with ease."))
        .cure("A pull box on the way.", Vec::new());

    let limit = x.copper_mm2.zip(x.conductors_n).map(|(copper, n)| {
        sheet.figure(&LIMIT, |w| {
            let copper = w.given("copper of one, mm²", Ratio(copper), "wire");
            let n_all = w.given("conductors", Ratio(f64::from(n)), "wire");
            let all = exact::<Newtons>(PER_MM2) * copper * n_all;
            Some(if n > 3 { all * exact(MORE_THAN_THREE) } else { all })
        })
    });
    let back = x.reversed();
    let forward = one_way(sheet, x, &TENSION, &SIDEWALL);
    let reverse = one_way(sheet, &back, &REVERSE, &SIDEWALL_REVERSE);
    sheet.word(&DIRECTION, |w| {
        let (there, back) = (
            w.take("pulled from its end", &forward.tension)?,
            w.take("pulled from its beginning", &reverse.tension)?,
        );
        let easier = if below(back.value.0, there.value.0) { "reverse" } else { "forward" };
        Some(Value::Text(easier.to_owned()))
    });
    Both { forward, reverse, limit }
}

fn bends(sheet: &mut Sheet, x: &PullInputs) {
    let deg = sheet.figure(&BENDS, |w| {
        let all = x.path.iter().filter_map(|p| p.bend_deg);
        let each: Vec<_> = all.map(|d| Some(w.given("bend", Degrees(d), "measured"))).collect();
        sum(each).or_else(|| Some(exact(0.0)))
    });
    let (most, worse) = match (sheet.school, deg.value()) {
        (School::Na, _) => (360.0, Verdict::Fail),
        (School::Iec, Some(deg)) if above(deg, 270.0) => (270.0, Verdict::Fail),
        (School::Iec, _) => (180.0, Verdict::Warn),
    };
    sheet
        .hold(&deg, Bound::at_most(most, "for one pull"), worse)
        .beyond(|over| format!("{over} more than one pull goes round."))
        .cure("A pull box between the bends.", Vec::new());
}

/// What pulling one way comes to.
struct OneWay {
    tension: Handle<Newtons>,
    pressure: Handle<NewtonsPerMetre>,
}

fn one_way(
    sheet: &mut Sheet,
    x: &PullInputs,
    tension: &'static Def<Newtons>,
    pressure: &'static Def<NewtonsPerMetre>,
) -> OneWay {
    let school = sheet.school;
    let mut pressed = None;
    let tension = sheet.figure(tension, |w| {
        let (tension, all) = x.tension(w, school)?;
        pressed = Some(all);
        Some(tension)
    });
    let pressure = sheet.figure(pressure, |w| PullInputs::sidewall(w, &tension, pressed));
    OneWay { tension, pressure }
}
