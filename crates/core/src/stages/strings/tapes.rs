//! The tape that marks a circuit everywhere.

use serde::Serialize;
use utoipa::ToSchema;

use crate::figure::Sheet;
use crate::job::Letter;
use crate::registry::Bench;

/// The tape that marks a circuit everywhere: a colour and, from the ninth on, a band pattern.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Tape {
    /// The string's letter.
    pub letter: Letter,
    /// Colour by name.
    pub colour: &'static str,
    /// The same on a screen and on paper, `#rrggbb`.
    pub hex: &'static str,
    /// Band pattern: 0 plain, then one band, two bands and so on.
    pub bands: u32,
}

/// Name and value of the colours. Told apart also by those who see some of them alike; the ninth
/// begins again with a band.
const COLOURS: [(&str, &str); 8] = [
    ("blue", "#1F63B0"),
    ("orange", "#D26A00"),
    ("green", "#23824F"),
    ("violet", "#7747B0"),
    ("yellow", "#C29A00"),
    ("brown", "#7A4A28"),
    ("pink", "#BF4579"),
    ("grey", "#66717B"),
];

/// The tapes of a job's strings and branches.
#[derive(Debug, Default)]
pub struct Tapes(pub Vec<Tape>);

pub(super) fn tapes(bench: &Bench, _: &mut Sheet) -> Tapes {
    let strings = bench.job.strings.iter().map(|s| &s.letter);
    let letters = strings.chain(bench.job.branches.iter().map(|b| &b.letter));
    let tape = |(i, letter): (usize, &Letter)| {
        let (colour, hex) = COLOURS[i % COLOURS.len()];
        let bands = (i / COLOURS.len()) as u32;
        Tape { letter: letter.clone(), colour, hex, bands }
    };
    Tapes(letters.enumerate().map(tape).collect())
}
