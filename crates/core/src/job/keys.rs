//! The keys by which things of a job are named. Each is a type of its own, so that the letter of a
//! string is never taken for the key of a face. Cheap to copy: figures carry them.

use std::borrow::Borrow;
use std::fmt;
use std::ops::Deref;
use std::sync::Arc;

use serde::{Deserialize, Serialize};
use utoipa::openapi::RefOr;
use utoipa::openapi::schema::{ObjectBuilder, Schema, Type};
use utoipa::{PartialSchema, ToSchema};

/// Longest key in characters, letters of strings excepted.
pub(super) const LONGEST: usize = 40;

/// Whether a key may hold this character: what stands in an address as it is.
pub(super) fn allowed(c: char) -> bool {
    c.is_alphanumeric() || matches!(c, '-' | '_' | '.' | '+' | ' ')
}

/// What is wrong with the key of a member, and what would be right.
pub(super) fn problem(key: &str) -> Option<(String, String)> {
    let long = key.chars().count() > LONGEST;
    let wrong = key.is_empty() || long || !key.chars().all(allowed);
    let allowed = format!("letters, digits, space, - _ . + and up to {LONGEST} characters");
    wrong.then(|| (format!("`{key}` is no key"), format!("{allowed}; no slash")))
}

fn short() -> ObjectBuilder {
    ObjectBuilder::new().schema_type(Type::String).min_length(Some(1)).max_length(Some(LONGEST))
}

fn letters() -> ObjectBuilder {
    ObjectBuilder::new().schema_type(Type::String).pattern(Some("^[A-Z]{1,3}$"))
}

macro_rules! keys {
    ($($(#[doc = $doc:literal])* $name:ident $schema:ident;)*) => {$(
        $(#[doc = $doc])*
        #[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
        #[serde(transparent)]
        pub struct $name(Arc<str>);

        impl $name {
            /// The key as it is written.
            pub fn as_str(&self) -> &str {
                &self.0
            }
        }

        impl Deref for $name {
            type Target = str;
            fn deref(&self) -> &str {
                &self.0
            }
        }

        impl Borrow<str> for $name {
            fn borrow(&self) -> &str {
                &self.0
            }
        }

        impl fmt::Display for $name {
            fn fmt(&self, f: &mut fmt::Formatter) -> fmt::Result {
                f.write_str(&self.0)
            }
        }

        impl From<&str> for $name {
            fn from(key: &str) -> Self {
                $name(key.into())
            }
        }

        impl From<String> for $name {
            fn from(key: String) -> Self {
                $name(key.into())
            }
        }

        impl PartialEq<str> for $name {
            fn eq(&self, other: &str) -> bool {
                &*self.0 == other
            }
        }

        impl PartialEq<&str> for $name {
            fn eq(&self, other: &&str) -> bool {
                &*self.0 == *other
            }
        }

        impl PartialSchema for $name {
            fn schema() -> RefOr<Schema> {
                let text = [$($doc),*].map(str::trim).join(" ");
                $schema().description(Some(text)).build().into()
            }
        }

        impl ToSchema for $name {}

        impl Default for $name {
            fn default() -> Self {
                $name("".into())
            }
        }
    )*};
}

keys! {
    /// Letter of a string or of a branch: tape, labels and tests go by it.
    Letter letters;
    /// Key of a face.
    FaceKey short;
    /// Key of an inverter.
    InverterKey short;
    /// Key of a node.
    NodeKey short;
    /// Key of a way.
    WayKey short;
    /// Key of a circuit.
    CircuitKey short;
    /// Key of a device, in its node.
    DeviceKey short;
    /// Key of a module on the roof map; it stands once in a job.
    ModuleKey short;
    /// Key of an obstruction, on its face.
    ObstructionKey short;
    /// Key of a reading.
    ReadingKey short;
    /// Key of cable that is there already.
    PieceKey short;
    /// Key of what a party asks for.
    DemandKey short;
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_key_reads_and_writes_as_its_text() {
        let letter: Letter = serde_json::from_str("\"AB\"").expect("a key is a text");
        assert_eq!(letter, "AB");
        assert_eq!(serde_json::to_string(&letter).expect("text"), "\"AB\"");
        assert_eq!(letter.to_string() + letter.as_str(), "ABAB");
        assert!(serde_json::from_str::<Letter>("3").is_err());
    }
}
