//! Keys that stand twice in one JSON object: a parser would drop one of them in silence.

use std::collections::HashSet;
use std::fmt;

use serde::de::{DeserializeSeed, Deserializer, MapAccess, SeqAccess, Visitor};

use crate::problem::{Problem, Problems};

/// Every key that stands twice, with its place. A text that is no JSON has none.
pub(super) fn twice(text: &str) -> Vec<Problem> {
    let mut found = Problems::default();
    let mut at = String::new();
    let walk = Walk { at: &mut at, found: &mut found };
    // What is wrong with the text as JSON the reader says.
    let _ = walk.deserialize(&mut serde_json::Deserializer::from_str(text));
    found.told()
}

struct Walk<'a> {
    at: &'a mut String,
    found: &'a mut Problems,
}

impl<'de> DeserializeSeed<'de> for Walk<'_> {
    type Value = ();

    fn deserialize<D: Deserializer<'de>>(self, from: D) -> Result<(), D::Error> {
        from.deserialize_any(self)
    }
}

macro_rules! nothing_in {
    ($($visit:ident $ty:ty),*) => {
        $(fn $visit<E>(self, _: $ty) -> Result<(), E> {
            Ok(())
        })*
    };
}

impl<'de> Visitor<'de> for Walk<'_> {
    type Value = ();

    fn expecting(&self, f: &mut fmt::Formatter) -> fmt::Result {
        f.write_str("JSON")
    }

    nothing_in!(visit_bool bool, visit_i64 i64, visit_u64 u64, visit_f64 f64, visit_str &str);

    fn visit_unit<E>(self) -> Result<(), E> {
        Ok(())
    }

    fn visit_map<A: MapAccess<'de>>(self, mut map: A) -> Result<(), A::Error> {
        let mut seen: HashSet<String> = HashSet::new();
        let long = self.at.len();
        while let Some(key) = map.next_key::<String>()? {
            self.at.push('/');
            self.at.push_str(&key);
            if seen.contains(&key) && self.found.full() {
                self.found.count();
            } else if !seen.insert(key.clone()) {
                self.found.push(Problem::new(
                    self.at.clone(),
                    format!("`{key}` is there twice"),
                    "each needs its own key",
                ));
            }
            map.next_value_seed(Walk { at: self.at, found: self.found })?;
            self.at.truncate(long);
        }
        Ok(())
    }

    fn visit_seq<A: SeqAccess<'de>>(self, mut list: A) -> Result<(), A::Error> {
        let long = self.at.len();
        for i in 0.. {
            self.at.push_str(&format!("/{i}"));
            let next = list.next_element_seed(Walk { at: self.at, found: self.found })?;
            self.at.truncate(long);
            if next.is_none() {
                break;
            }
        }
        Ok(())
    }
}
