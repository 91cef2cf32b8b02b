//! What a stage brings with it, in one place: its figures, its passes over a job, the calculations
//! that stand alone, its quick sums, what the values of a data sheet mean.
//!
//! [`evaluate`](crate::evaluate()), [`cases`](crate::cases), [`sums`](crate::sums) and the entry of
//! data sheets read the registry; none of them names a rule. Passes run in the order of what they
//! need.

mod calculation;
mod pass;
mod sum;

pub use calculation::{Calculation, Extra};
pub use pass::{Bench, Findings, Need, Pass, need};
pub use sum::{Input, InputKind, Sum, choice, count, flag, number, optional, text};

use std::collections::HashMap;

use serde::de::DeserializeOwned;

use crate::figure::{Card, Sheet};
use crate::library::{About, DataSheet, SheetKind};

/// Says what the values of a data sheet mean, on a sheet.
pub type Meaning = fn(&mut Sheet, &DataSheet, &About);

/// What the stages brought.
#[derive(Default)]
pub struct Registry {
    cards: Vec<&'static Card>,
    by_id: HashMap<&'static str, &'static Card>,
    passes: Vec<Pass>,
    calculations: Vec<Calculation>,
    sums: Vec<&'static Sum>,
    meanings: Vec<(SheetKind, Meaning)>,
}

impl Registry {
    /// The figures and checks a file declares.
    pub fn figures(&mut self, cards: &[&'static Card]) {
        self.cards.extend(cards);
        self.by_id.extend(cards.iter().map(|c| (c.id, *c)));
    }

    /// A pass over a job: what it needs of others, and what it leaves for them.
    pub fn pass<T: Send + 'static>(
        &mut self,
        name: &'static str,
        needs: &[Need],
        run: fn(&Bench, &mut Sheet) -> T,
    ) {
        self.passes.push(Pass::new(name, needs, run));
    }

    /// A calculation that stands alone, by the name case files and sums know it by.
    pub fn calculation<X: DeserializeOwned + 'static>(
        &mut self,
        group: &'static str,
        run: fn(&mut Sheet, &X),
    ) -> &mut Calculation {
        self.calculation_with::<X>(group, move |sheet, x| {
            run(sheet, x);
            Extra::new()
        })
    }

    /// A calculation that gives something besides its figures.
    pub fn calculation_with<X: DeserializeOwned + 'static>(
        &mut self,
        group: &'static str,
        run: impl Fn(&mut Sheet, &X) -> Extra + Send + Sync + 'static,
    ) -> &mut Calculation {
        self.calculations.push(Calculation::new::<X>(group, run));
        let last = self.calculations.len() - 1;
        &mut self.calculations[last]
    }

    /// Quick sums.
    pub fn sums(&mut self, sums: &'static [Sum]) {
        self.sums.extend(sums);
    }

    /// What the values of a kind of data sheet mean.
    pub fn meaning(&mut self, kind: SheetKind, meaning: Meaning) {
        self.meanings.push((kind, meaning));
    }

    /// Puts the passes into the order of what they need.
    ///
    /// # Panics
    /// Where a pass needs what no pass gives, or passes wait for one another.
    pub fn settle(&mut self) {
        pass::settle(&mut self.passes);
    }

    /// Every figure and check there is.
    pub fn all_cards(&self) -> &[&'static Card] {
        &self.cards
    }

    /// The figure or check of this id.
    pub fn card(&self, id: &str) -> Option<&'static Card> {
        self.by_id.get(id).copied()
    }

    /// The passes in their order.
    pub fn all_passes(&self) -> &[Pass] {
        &self.passes
    }

    /// The calculation of this name.
    pub fn find_calculation(&self, group: &str) -> Option<&Calculation> {
        self.calculations.iter().find(|c| c.group == group)
    }

    /// Every quick sum.
    pub fn all_sums(&self) -> &[&'static Sum] {
        &self.sums
    }

    /// Says what the values of a data sheet mean.
    pub fn say_meaning(&self, sheet: &mut Sheet, read: &DataSheet, about: &About) {
        for (_, meaning) in self.meanings.iter().filter(|(kind, _)| *kind == read.kind()) {
            meaning(sheet, read, about);
        }
    }
}
