//! The current in each line of what several sources feed together: by phase as vectors, and where
//! nobody said a phase at its worst.

use crate::job::{Job, JobBranch};
use crate::library::{InverterSheet, Library, MicroSheet};
use crate::school::School;

/// Sources of the AC side that come together.
#[derive(Clone, Debug)]
pub(crate) struct Sources<'a> {
    school: School,
    inverters: Vec<(Option<u32>, Option<&'a InverterSheet>)>,
    branches: Vec<(&'a JobBranch, Option<&'a MicroSheet>)>,
}

/// One of them: its amps, its phase, whether it feeds all three, and whether line to line.
struct Source {
    amps: f64,
    phase: Option<u32>,
    three: bool,
    to_line: bool,
}

/// Two lines of a 208Y/120 supply, V.
pub(crate) fn is_208y(volts: f64) -> bool {
    (200.0..=215.0).contains(&volts)
}

/// Whether a single-phase source of these volts feeds one line and the neutral.
pub(crate) fn to_neutral(school: School, volts: f64) -> bool {
    match school {
        School::Iec => volts < 300.0,
        School::Na => volts < 150.0 || (260.0..300.0).contains(&volts),
    }
}

impl<'a> Sources<'a> {
    /// Inverters and branches by their places in the job's lists.
    pub(crate) fn of(
        job: &'a Job,
        library: &'a Library,
        inverters: &[usize],
        branches: &[usize],
    ) -> Self {
        let inverters = inverters.iter().map(|i| {
            let own = &job.inverters[*i];
            (own.phase, library.inverter(&own.sheet))
        });
        let branches = branches.iter().map(|i| {
            let own = &job.branches[*i];
            (own, library.micro(&own.micro))
        });
        let school = job.school;
        Sources { school, inverters: inverters.collect(), branches: branches.collect() }
    }

    /// All of a job.
    pub(crate) fn all(job: &'a Job, library: &'a Library) -> Self {
        let inverters: Vec<usize> = (0..job.inverters.len()).collect();
        let branches: Vec<usize> = (0..job.branches.len()).collect();
        Sources::of(job, library, &inverters, &branches)
    }

    /// Whether there is none.
    pub(crate) fn is_empty(&self) -> bool {
        self.inverters.is_empty() && self.branches.is_empty()
    }

    /// Nominal volts between the lines they feed; of the first that says it.
    pub(crate) fn volts(&self) -> Option<f64> {
        self.all_volts().next()
    }

    /// The volts of each that says them.
    pub(crate) fn all_volts(&self) -> impl Iterator<Item = f64> {
        let inverters = self.inverters.iter().filter_map(|(_, i)| i.and_then(|i| i.ac_v));
        inverters.chain(self.branches.iter().filter_map(|(_, m)| m.and_then(|m| m.ac_v)))
    }

    /// Whether they feed three lines: one of them does, or several do of which a phase is said.
    pub(crate) fn three_phase(&self) -> bool {
        let phases = self.inverters.iter().map(|(p, _)| *p);
        let said = phases.chain(self.branches.iter().map(|(b, _)| b.phase)).flatten().count();
        self.inverters.iter().any(|(_, i)| i.is_some_and(|i| i.three_phase))
            || (said > 0 && self.inverters.len() + self.branches.len() > 1)
    }

    /// Rated watts of all of them; none where a data sheet does not say.
    pub(crate) fn watts(&self) -> Option<f64> {
        let inverters = self.inverters.iter().map(|(_, i)| (*i)?.ac_w);
        let branches = self.branches.iter();
        let branches = branches.map(|(b, m)| Some((*m)?.ac_w? * f64::from(b.units())));
        inverters.chain(branches).sum()
    }

    fn each(&self) -> Option<Vec<Source>> {
        let school = self.school;
        let to_line = |volts: Option<f64>| volts.is_some_and(|v| !to_neutral(school, v));
        let inverters = self.inverters.iter().map(|(phase, i)| {
            let i = (*i)?;
            let (amps, three) = (i.ac_a?, i.three_phase);
            Some(Source { amps, phase: *phase, three, to_line: to_line(i.ac_v) })
        });
        let branches = self.branches.iter().map(|(b, m)| {
            let m = (*m)?;
            let amps = m.ac_a? * f64::from(b.units());
            Some(Source { amps, phase: b.phase, three: false, to_line: to_line(m.ac_v) })
        });
        inverters.chain(branches).collect()
    }

    /// Amps in each of three lines; where they feed one pair of conductors, in that.
    pub(crate) fn lines_a(&self) -> Option<Vec<f64>> {
        let each = self.each()?;
        if !self.three_phase() {
            return Some(vec![each.iter().map(|s| s.amps).sum()]);
        }
        let mut lines = [(0.0_f64, 0.0_f64); 3];
        // What nobody said of a phase may be on any.
        let mut anywhere = 0.0;
        // Volts of line n to the neutral lag by 120° each; those of a pair lead its first by 30°.
        let mut add = |line: usize, amps: f64, deg: f64| {
            let (sin, cos) = deg.to_radians().sin_cos();
            lines[line].0 += amps * cos;
            lines[line].1 += amps * sin;
        };
        for s in &each {
            match (s.three, s.phase) {
                (true, _) => (0..3).for_each(|l| add(l, s.amps, -120.0 * l as f64)),
                (false, None) => anywhere += s.amps,
                (false, Some(p)) => {
                    let line = (p as usize).saturating_sub(1) % 3;
                    let at = -120.0 * line as f64;
                    if s.to_line {
                        add(line, s.amps, at + 30.0);
                        add((line + 1) % 3, -s.amps, at + 30.0);
                    } else {
                        add(line, s.amps, at);
                    }
                }
            }
        }
        Some(lines.iter().map(|(x, y)| x.hypot(*y) + anywhere).collect())
    }

    /// Amps in the fullest line; none where there is no source, or a data sheet does not say.
    pub(crate) fn fullest_a(&self) -> Option<f64> {
        let lines = self.lines_a().filter(|_| !self.is_empty())?;
        lines.into_iter().reduce(f64::max)
    }

    /// Lines to open, the neutral left out.
    pub(crate) fn lines_n(&self) -> usize {
        match self.volts() {
            _ if self.three_phase() => 3,
            Some(v) if to_neutral(self.school, v) => 1,
            None if self.school == School::Iec => 1,
            _ => 2,
        }
    }
}
