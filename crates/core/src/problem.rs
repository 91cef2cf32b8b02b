//! Something wrong in what was entered.

use serde::Serialize;
use utoipa::ToSchema;

/// Something wrong in a job file: where, what, and what would be right.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, ToSchema)]
pub struct Problem {
    /// JSON pointer into the file.
    pub path: String,
    /// What is wrong.
    pub message: String,
    /// What would be right.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub hint: String,
    /// How many others this line stands for; 0 for a problem of its own.
    #[serde(skip)]
    more_n: usize,
}

/// Most problems named in one answer; those beyond are counted.
pub const MOST_TOLD: usize = 50;
/// Problems that are counted; then it is enough to know that there are more.
const MOST_COUNTED: usize = 10_000;
/// Longest place, message and hint, in characters: nothing that is entered makes an answer long.
const LONGEST_PATH: usize = 300;
const LONGEST_TEXT: usize = 600;

impl Problem {
    /// A problem at a place. Names of any length come in with it, so each text is cut.
    pub fn new(
        path: impl Into<String>,
        message: impl Into<String>,
        hint: impl Into<String>,
    ) -> Self {
        Problem {
            path: cut(path.into(), LONGEST_PATH),
            message: cut(message.into(), LONGEST_TEXT),
            hint: cut(hint.into(), LONGEST_TEXT),
            more_n: 0,
        }
    }

    /// The same at another place, made of the one it has.
    pub fn at(self, place: impl FnOnce(&str) -> String) -> Self {
        Problem { path: cut(place(&self.path), LONGEST_PATH), ..self }
    }

    /// How many problems this line tells: one, or as many as it stands for.
    pub fn counts(&self) -> usize {
        self.more_n.max(1)
    }
}

/// A text of at most so many characters, its end left out where it is longer.
fn cut(mut text: String, most: usize) -> String {
    if text.len() > most
        && let Some((end, _)) = text.char_indices().nth(most)
    {
        text.truncate(end);
        text.push('…');
        text.shrink_to_fit();
    }
    text
}

/// At most sixty characters of a text, for a sentence.
pub(crate) fn shortened(text: &str) -> String {
    cut(text.to_owned(), LONGEST_WORD)
}

/// Longest name that is said in a sentence, and longest word a like one is looked for.
pub(crate) const LONGEST_WORD: usize = 60;

/// Problems as they are found: the first fifty are kept, the others counted.
#[derive(Debug, Default)]
pub struct Problems {
    told: Vec<Problem>,
    n: usize,
}

impl Problems {
    /// Takes one more, or the line that stands for several.
    pub fn push(&mut self, problem: Problem) {
        self.n += problem.counts();
        if problem.more_n == 0 && self.told.len() < MOST_TOLD {
            self.told.push(problem);
        }
    }

    /// Counts one more that is not told: there are fifty already.
    pub fn count(&mut self) {
        self.n += 1;
    }

    /// Whether further ones are only counted.
    pub fn full(&self) -> bool {
        self.told.len() >= MOST_TOLD
    }

    /// Whether there is none.
    pub fn is_empty(&self) -> bool {
        self.n == 0
    }

    /// Whether there are so many that nothing is won by looking for more.
    pub fn enough(&self) -> bool {
        self.n >= MOST_COUNTED
    }

    /// What is told: the first fifty, and in a line of its own how many more there are.
    pub fn told(self) -> Vec<Problem> {
        let more = self.n - self.told.len();
        let mut told = self.told;
        if more > 0 {
            let least = if self.n >= MOST_COUNTED { "at least " } else { "" };
            let word = if more == 1 { "problem" } else { "problems" };
            let message = format!("and {least}{more} more {word}");
            let line = Problem::new("", message, "put these right first");
            told.push(Problem { more_n: more, ..line });
        }
        told
    }
}

impl Extend<Problem> for Problems {
    fn extend<I: IntoIterator<Item = Problem>>(&mut self, problems: I) {
        for problem in problems {
            if self.enough() {
                return;
            }
            self.push(problem);
        }
    }
}

impl From<Vec<Problem>> for Problems {
    fn from(problems: Vec<Problem>) -> Self {
        let mut all = Problems::default();
        all.extend(problems);
        all
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn some(n: usize) -> Vec<Problem> {
        (0..n).map(|i| Problem::new(format!("/{i}"), "is wrong", "")).collect()
    }

    #[test]
    fn fifty_are_told_and_the_others_counted() {
        assert_eq!(Problems::from(some(50)).told(), some(50));
        let told = Problems::from(some(51)).told();
        assert_eq!(told.len(), MOST_TOLD + 1);
        assert_eq!(told[50].message, "and 1 more problem");
        // Told again, it is the same.
        assert_eq!(Problems::from(told.clone()).told(), told);
        assert_eq!(told.iter().map(Problem::counts).sum::<usize>(), 51);
        let told = Problems::from(some(20_000)).told();
        assert_eq!(told[50].message, "and at least 9950 more problems");
    }

    #[test]
    fn names_of_any_length_are_cut() {
        let long = "ü".repeat(1_000_000);
        let problem = Problem::new(format!("/job/{long}"), format!("unknown field `{long}`"), long);
        assert_eq!(problem.path.chars().count(), LONGEST_PATH + 1);
        assert!(problem.path.starts_with("/job/ü") && problem.path.ends_with('…'));
        assert_eq!(problem.message.chars().count(), LONGEST_TEXT + 1);
        assert_eq!(problem.hint.chars().count(), LONGEST_TEXT + 1);
        assert_eq!(Problem::new("/a", "is wrong", "").message, "is wrong");
    }
}
