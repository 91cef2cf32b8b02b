//! A calculation that stands alone: inputs in, figures and checks out.

use std::fmt;

use serde::de::DeserializeOwned;
use serde_json::{Map, Value as Json};

use crate::figure::{Def, Sheet};

/// What a calculation gives that is no single value, by id.
pub type Extra = Map<String, Json>;

type Run = Box<dyn Fn(&mut Sheet, Json) -> Result<Extra, String> + Send + Sync>;

/// A calculation by its name.
pub struct Calculation {
    /// Its name: the group of case files, or the sum's own.
    pub group: &'static str,
    run: Run,
    names: Vec<(&'static str, &'static str)>,
}

impl fmt::Debug for Calculation {
    fn fmt(&self, f: &mut fmt::Formatter) -> fmt::Result {
        f.debug_struct("Calculation").field("group", &self.group).finish_non_exhaustive()
    }
}

impl Calculation {
    pub(super) fn new<X: DeserializeOwned + 'static>(
        group: &'static str,
        run: impl Fn(&mut Sheet, &X) -> Extra + Send + Sync + 'static,
    ) -> Self {
        let run: Run = Box::new(move |sheet, inputs| {
            let x: X = serde_json::from_value(inputs).map_err(|e| format!("inputs: {e}"))?;
            Ok(run(sheet, &x))
        });
        Calculation { group, run, names: Vec::new() }
    }

    /// Case files know a check by another name than the report does.
    pub fn verdict_named<K>(&mut self, name: &'static str, check: &'static Def<K>) -> &mut Self {
        self.names.push((name, check.id));
        self
    }

    /// The id of the check a case file means.
    pub fn check_id<'a>(&self, name: &'a str) -> &'a str {
        self.names.iter().find(|(n, _)| *n == name).map_or(name, |(_, id)| id)
    }

    /// Computes from inputs. A field that may be absent may also be null, and both mean the same.
    ///
    /// # Errors
    /// Where the inputs are not those of the calculation.
    pub fn run(&self, sheet: &mut Sheet, inputs: &Map<String, Json>) -> Result<Extra, String> {
        let fields = inputs.iter().filter(|(_, v)| !v.is_null());
        let fields = fields.map(|(k, v)| (k.clone(), v.clone())).collect();
        (self.run)(sheet, Json::Object(fields))
    }
}
