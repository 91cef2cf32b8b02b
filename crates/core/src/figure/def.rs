//! The declaration of a figure or of a check: written once, beside the code that computes it.

use std::marker::PhantomData;
use std::ops::Deref;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::quantity::{Quantity, Unit};
use crate::school::School;

/// The stage of the job a figure belongs to.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Stage {
    /// What must be known before anything is sized.
    Site,
    /// Data sheets.
    Equipment,
    /// Strings against the inverter's window.
    Strings,
    /// Modules on their faces, and how their leads join.
    Roof,
    /// Conductors, raceways, the panel they end in.
    Runs,
    /// What protects, switches and isolates; the panel; what the parties ask for.
    Protection,
    /// Grounding and bonding (na), earthing (iec).
    Earth,
    /// Readings against what they should be.
    Test,
}

impl Stage {
    /// Every stage, in the order of the job.
    pub const ALL: [Stage; 8] = [
        Stage::Site,
        Stage::Equipment,
        Stage::Strings,
        Stage::Roof,
        Stage::Runs,
        Stage::Protection,
        Stage::Earth,
        Stage::Test,
    ];
}

/// What is said of a figure or a check wherever it stands.
#[derive(Debug)]
pub struct Card {
    /// Stable id, ending in the unit.
    pub id: &'static str,
    /// Plain title.
    pub title: &'static str,
    /// The stage it belongs to.
    pub stage: Stage,
    /// Rule number or data-sheet field it rests on, North American school.
    pub na: &'static str,
    /// The same, IEC school.
    pub iec: &'static str,
    /// Unit of the figure's number; a size may have another.
    pub unit: Unit,
}

impl Card {
    /// The source in the given school.
    pub fn source(&self, school: School) -> &'static str {
        match school {
            School::Na => self.na,
            School::Iec => self.iec,
        }
    }
}

/// What a figure may be: a quantity, or one of the kinds below.
pub trait Kind {
    /// The unit of its number.
    const UNIT: Unit;
}

impl<Q: Quantity> Kind for Q {
    const UNIT: Unit = Q::UNIT;
}

impl Kind for Count {
    const UNIT: Unit = Unit::Count;
}

impl Kind for Word {
    const UNIT: Unit = Unit::None;
}

impl Kind for Size {
    const UNIT: Unit = Unit::None;
}

impl Kind for Rule {
    const UNIT: Unit = Unit::None;
}

/// Kind of a figure that is a count: computed as a [`Ratio`](crate::quantity::Ratio), without unit.
#[derive(Debug)]
pub enum Count {}

/// Kind of a figure that is a size, a name, or yes and no.
#[derive(Debug)]
pub enum Word {}

/// Kind of a figure that is a size: a trade size or gauge by name (na), a number (iec).
#[derive(Debug)]
pub enum Size {}

/// Kind of a check that has no figure of its own.
#[derive(Debug)]
pub enum Rule {}

/// A declared figure of the kind `K`: a [quantity](crate::quantity), a [`Count`], a [`Word`],
/// a [`Size`]; or a [`Rule`], which is only ever judged.
#[derive(Debug)]
pub struct Def<K: 'static> {
    card: Card,
    kind: PhantomData<fn() -> K>,
}

impl<K> Def<K> {
    /// Made by [`figures!`](crate::figures), which stands for it everywhere.
    pub const fn new(card: Card) -> Self {
        Def { card, kind: PhantomData }
    }

    /// Its card.
    pub const fn card(&'static self) -> &'static Card {
        &self.card
    }
}

impl<K> Deref for Def<K> {
    type Target = Card;

    fn deref(&self) -> &Card {
        &self.card
    }
}

/// Declares the figures of a file, a line each, and the list `CARDS` of them for the stage's
/// `define`.
///
/// One source serves both schools; `na` and `iec` part them, and what a school does not know is
/// left out.
///
/// ```
/// use heliant_core::figures;
///
/// figures! { Strings;
///     /// Volts of the string on the coldest morning.
///     VOC_COLD: Volts = "string.voc_cold_v", "Open-circuit volts", na "690.7", iec "IEC 62548";
///     /// Connectors of the input.
///     CONNECTORS: Count = "mppt.connectors_n", "Connectors", "inverter data sheet";
/// }
/// assert_eq!(VOC_COLD.id, "string.voc_cold_v");
/// assert_eq!((VOC_COLD.na, CONNECTORS.na), ("690.7", "inverter data sheet"));
/// assert_eq!(CARDS.len(), 2);
/// ```
#[macro_export]
macro_rules! figures {
    ($stage:ident; $(
        $(#[$doc:meta])*
        $name:ident: $kind:ident = $id:literal, $title:literal
            $(, $both:literal)? $(, na $na:literal)? $(, iec $iec:literal)?;
    )*) => {
        $(
            $(#[$doc])*
            pub static $name: $crate::figure::Def<$crate::figure::kind::$kind> =
                $crate::figure::Def::new($crate::figure::Card {
                    id: $id,
                    title: $title,
                    stage: $crate::figure::Stage::$stage,
                    na: concat!($($both)? $($na)?),
                    iec: concat!($($both)? $($iec)?),
                    unit: <$crate::figure::kind::$kind as $crate::figure::Kind>::UNIT,
                });
        )*
        /// Every figure and check declared here.
        pub static CARDS: &[&$crate::figure::Card] = &[$($name.card()),*];
    };
}

/// The kinds a figure may be of, as [`figures!`](crate::figures) names them.
pub mod kind {
    pub use super::{Count, Rule, Size, Word};
    pub use crate::quantity::*;
}
