//! Every rule there is, registered once.

use std::sync::LazyLock;

use crate::registry::Registry;
use crate::{search, stages};

static RULES: LazyLock<Registry> = LazyLock::new(|| {
    let mut registry = Registry::default();
    stages::define(&mut registry);
    search::define(&mut registry);
    registry.settle();
    registry
});

/// The registry of all rules.
pub fn rules() -> &'static Registry {
    &RULES
}

#[cfg(test)]
mod tests {
    use std::collections::HashMap;

    use super::*;

    #[test]
    fn every_id_is_declared_once() {
        let mut seen: HashMap<&str, &str> = HashMap::new();
        for card in rules().all_cards() {
            let before = seen.insert(card.id, card.title);
            assert_eq!(before, None, "{} is {} too", card.id, card.title);
        }
        assert!(seen.len() > 100, "{} figures and checks", seen.len());
    }

    #[test]
    fn every_figure_has_a_title_and_a_source_in_a_school() {
        for card in rules().all_cards() {
            assert!(!card.title.is_empty(), "{}", card.id);
            assert!(!card.na.is_empty() || !card.iec.is_empty(), "{} rests on nothing", card.id);
        }
    }
}
