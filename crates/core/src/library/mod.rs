//! Data sheets: what the maker says of modules and inverters, by sheet and revision. A job pins the
//! revision it was planned with; a newer one never changes it in silence.
//!
//! A kind of data sheet is a file here, its line in the list of kinds, and its references in
//! [`Job::references`](crate::job::Job::references). What its values mean is said by the stage that
//! uses it.

mod about;
mod devices;
pub mod entry;
mod field;
mod inverter;
mod micro;
mod module;
mod optimizer;
pub mod table;

use std::sync::LazyLock;

use serde::de::DeserializeOwned;
use serde::{Deserialize, Serialize};
use serde_json::Value;
use utoipa::ToSchema;

pub use about::About;
pub use devices::{
    BreakerSheet, CombinerSheet, EnclosureSheet, FuseSheet, IsolatorSheet, SurgeSheet,
};
pub use field::Field;
pub use inverter::{InverterRatings, InverterSheet, Mppt, RcdType, SwitchOn};
pub use micro::{MicroSheet, Trunk};
pub use module::{LeadExits, ModuleRatings, ModuleSheet};
pub use optimizer::{OptimizerRatings, OptimizerSheet};

use crate::problem::Problem;
use crate::quantity::{above, below};
use crate::schema::Schema;

const LIMITS: &str = "Limits";
const BODY: &str = "Size and weight";
const AC: &str = "AC side";
/// What few makers print.
const SELDOM: &str = "Where the sheet gives it";

/// What every data sheet says of itself.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Head<'a> {
    /// Key of the sheet.
    pub sheet: &'a str,
    /// Revision.
    pub revision: u32,
    /// Maker.
    pub maker: &'a str,
    /// Model.
    pub model: &'a str,
    /// Made-up sample data.
    pub demo: bool,
}

impl Head<'_> {
    /// What a job names the sheet by.
    pub fn reference(&self) -> SheetRef {
        SheetRef { sheet: self.sheet.to_owned(), revision: self.revision }
    }
}

/// What every kind of data sheet says of itself in the same fields.
pub trait Headed {
    /// What it says of itself.
    fn head(&self) -> Head<'_>;

    /// What a job names it by.
    fn reference(&self) -> SheetRef {
        self.head().reference()
    }
}

/// What a kind of data sheet has to know of itself.
pub trait SheetData: Headed + Serialize + DeserializeOwned + ToSchema {
    /// Its fields besides the head, in the order a data sheet has them.
    const FIELDS: &'static [Field];

    /// What does not fit together where each field is in range; places below `path`.
    fn problems(&self, path: &str, found: &mut Vec<Problem>);
}

/// A reference to one revision of a data sheet.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SheetRef {
    /// Key of the sheet.
    #[schema(min_length = 1, max_length = 60)]
    pub sheet: String,
    /// Its revision.
    #[schema(minimum = 1, maximum = 9999)]
    pub revision: u32,
}

macro_rules! kinds {
    ($(
        $(#[doc = $doc:literal])*
        $kind:ident($sheet:ident) = $word:literal in $list:ident, by $one:ident;
    )*) => {
        /// The kinds of data sheets.
        #[derive(
            Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize,
                ToSchema,
        )]
        #[serde(rename_all = "snake_case")]
        pub enum SheetKind {
            $($(#[doc = $doc])* $kind,)*
        }

        $(
            impl Headed for $sheet {
                fn head(&self) -> Head<'_> {
                    Head {
                        sheet: &self.sheet,
                        revision: self.revision,
                        maker: &self.maker,
                        model: &self.model,
                        demo: self.demo,
                    }
                }
            }
        )*

        impl SheetKind {
            /// All kinds, in the order they are listed.
            pub const ALL: &[SheetKind] = &[$(SheetKind::$kind),*];

            /// The word on the wire.
            pub fn word(self) -> &'static str {
                match self {
                    $(SheetKind::$kind => $word,)*
                }
            }

            /// The list of the library that holds them.
            pub fn list(self) -> &'static str {
                match self {
                    $(SheetKind::$kind => stringify!($list),)*
                }
            }

            fn own_fields(self) -> &'static [Field] {
                match self {
                    $(SheetKind::$kind => $sheet::FIELDS,)*
                }
            }

            fn schema(self) -> &'static Schema {
                match self {
                    $(SheetKind::$kind => {
                        static SCHEMA: LazyLock<Schema> =
                            LazyLock::new(|| Schema::of::<$sheet>(stringify!($kind)));
                        &SCHEMA
                    })*
                }
            }

            fn parse(self, document: Value) -> Result<DataSheet, serde_json::Error> {
                match self {
                    $(SheetKind::$kind => serde_json::from_value(document).map(DataSheet::$kind),)*
                }
            }
        }

        /// One revision of a data sheet, of any kind.
        #[derive(Clone, Debug, PartialEq)]
        pub enum DataSheet {
            $($(#[doc = $doc])* $kind($sheet),)*
        }

        impl DataSheet {
            /// Its kind.
            pub fn kind(&self) -> SheetKind {
                match self {
                    $(DataSheet::$kind(_) => SheetKind::$kind,)*
                }
            }

            /// What it says of itself.
            pub fn head(&self) -> Head<'_> {
                match self {
                    $(DataSheet::$kind(s) => s.head(),)*
                }
            }

            /// What does not fit together in it; places below `path`.
            pub fn problems(&self, path: &str) -> Vec<Problem> {
                let mut found = Vec::new();
                match self {
                    $(DataSheet::$kind(s) => s.problems(path, &mut found),)*
                }
                found
            }

            /// The document.
            pub fn document(&self) -> Value {
                match self {
                    $(DataSheet::$kind(s) => serde_json::to_value(s),)*
                }
                .expect("a data sheet has only string keys")
            }

            /// The same under another revision.
            pub fn with_revision(mut self, revision: u32) -> Self {
                match &mut self {
                    $(DataSheet::$kind(s) => s.revision = revision,)*
                }
                self
            }

            /// Puts it into a library.
            pub fn put_into(self, library: &mut Library) {
                match self {
                    $(DataSheet::$kind(s) => library.$list.push(s),)*
                }
            }
        }

        /// The data sheets a job uses.
        #[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, ToSchema)]
        #[serde(deny_unknown_fields, default)]
        pub struct Library {
            $(
                $(#[doc = $doc])*
                #[schema(max_items = 200)]
                pub $list: Vec<$sheet>,
            )*
        }

        impl Library {
            $(
                /// The sheet of this kind that a reference names.
                pub fn $one(&self, r: &SheetRef) -> Option<&$sheet> {
                    self.$list.iter().find(|s| s.sheet == r.sheet && s.revision == r.revision)
                }
            )*

            /// Every sheet in it, modules first.
            pub fn sheets(&self) -> Vec<DataSheet> {
                let mut all = Vec::new();
                $(all.extend(self.$list.iter().cloned().map(DataSheet::$kind));)*
                all
            }

            /// What each sheet says of itself, by kind and place in its list.
            pub fn heads(&self) -> Vec<(SheetKind, usize, Head<'_>)> {
                let mut all = Vec::new();
                $(
                    let heads = self.$list.iter().map(Headed::head).enumerate();
                    all.extend(heads.map(|(i, head)| (SheetKind::$kind, i, head)));
                )*
                all
            }

            /// What does not fit together in its sheets; places below `path`.
            pub fn problems(&self, path: &str) -> Vec<Problem> {
                let mut found = Vec::new();
                $(
                    for (i, sheet) in self.$list.iter().enumerate() {
                        let at = format!("{path}/{}/{i}", stringify!($list));
                        sheet.problems(&at, &mut found);
                    }
                )*
                found
            }
        }
    };
}

kinds! {
    /// PV modules.
    Module(ModuleSheet) = "module" in modules, by module;
    /// String and hybrid inverters.
    Inverter(InverterSheet) = "inverter" in inverters, by inverter;
    /// Optimizers.
    Optimizer(OptimizerSheet) = "optimizer" in optimizers, by optimizer;
    /// Microinverters.
    Micro(MicroSheet) = "micro" in micros, by micro;
    /// gPV fuses.
    Fuse(FuseSheet) = "fuse" in fuses, by fuse;
    /// Isolators.
    Isolator(IsolatorSheet) = "isolator" in isolators, by isolator;
    /// Surge devices.
    Surge(SurgeSheet) = "surge" in surges, by surge;
    /// Breakers.
    Breaker(BreakerSheet) = "breaker" in breakers, by breaker;
    /// Combiners.
    Combiner(CombinerSheet) = "combiner" in combiners, by combiner;
    /// Enclosures.
    Enclosure(EnclosureSheet) = "enclosure" in enclosures, by enclosure;
}

impl SheetKind {
    /// The kind a word names.
    pub fn of(word: &str) -> Option<SheetKind> {
        SheetKind::ALL.iter().copied().find(|k| k.word() == word)
    }

    /// The kind whose sheets a list of the library holds.
    pub fn of_list(list: &str) -> Option<SheetKind> {
        SheetKind::ALL.iter().copied().find(|k| k.list() == list)
    }

    /// The fields of the kind, in the order a data sheet has them.
    pub fn fields(self) -> Vec<Field> {
        field::HEAD.iter().chain(self.own_fields()).copied().collect()
    }
}

impl DataSheet {
    /// What a job names it by.
    pub fn reference(&self) -> SheetRef {
        self.head().reference()
    }
}

impl Library {
    /// Whether it holds the sheet a reference of this kind names.
    pub fn has(&self, kind: SheetKind, r: &SheetRef) -> bool {
        self.head(kind, r).is_some()
    }

    /// What the sheet a reference names says of itself.
    pub fn head(&self, kind: SheetKind, r: &SheetRef) -> Option<Head<'_>> {
        let mut heads = self.heads().into_iter();
        let here = |k: SheetKind, h: &Head| k == kind && h.sheet == r.sheet;
        heads.find(|(k, _, h)| here(*k, h) && h.revision == r.revision).map(|(.., h)| h)
    }
}

fn ordered(
    found: &mut Vec<Problem>,
    path: &str,
    what: &str,
    (low, high): (Option<f64>, Option<f64>),
    unit: &str,
) {
    // A count may be one number; a range of volts needs some width.
    let upside_down =
        |low: f64, high: f64| if unit.is_empty() { above(low, high) } else { !below(low, high) };
    if let (Some(low), Some(high)) = (low, high)
        && upside_down(low, high)
    {
        found.push(Problem::new(
            path,
            format!("{what} from {low} to {high}{unit} is upside down"),
            "the lower end goes first",
        ));
    }
}
