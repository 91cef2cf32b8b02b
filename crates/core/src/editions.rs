//! Rule numbers of the 2023 edition of the North American code as earlier editions have them.

use std::borrow::Cow;
use std::collections::HashMap;
use std::sync::{LazyLock, Mutex};

use serde::Deserialize;

use crate::school::Edition;

#[derive(Debug, Deserialize)]
struct Row {
    rule: String,
    in_2020: String,
    in_2017: String,
}

static ROWS: LazyLock<Vec<Row>> = LazyLock::new(|| {
    let text = include_str!("../../../data/na_editions.csv");
    let mut reader = csv::ReaderBuilder::new().comment(Some(b'#')).from_reader(text.as_bytes());
    let rows: Result<Vec<Row>, _> = reader.deserialize().collect();
    let mut rows = rows.unwrap_or_else(|e| panic!("data/na_editions.csv: {e}"));
    // The longest number first: 705.12(B)(2) is not 705.12(B) with something behind it.
    rows.sort_by_key(|r| std::cmp::Reverse(r.rule.len()));
    rows
});

/// A text that cites rules, with the numbers they have in an edition.
pub fn cited(edition: Edition, text: &str) -> Cow<'_, str> {
    if edition == Edition::Y2023 {
        return Cow::Borrowed(text);
    }
    let mut out = String::new();
    let mut rest = text;
    while !rest.is_empty() {
        let whole = |r: &&Row| {
            rest.strip_prefix(r.rule.as_str())
                .is_some_and(|next| !next.starts_with(|c: char| c == '(' || c.is_ascii_digit()))
        };
        let begins = !out.ends_with(|c: char| c.is_ascii_digit() || c == '.');
        match ROWS.iter().find(whole).filter(|_| begins) {
            Some(row) => {
                out.push_str(match edition {
                    Edition::Y2017 => &row.in_2017,
                    _ => &row.in_2020,
                });
                rest = &rest[row.rule.len()..];
            }
            None => {
                let next = rest.chars().next().map_or(0, char::len_utf8);
                out.push_str(&rest[..next]);
                rest = &rest[next..];
            }
        }
    }
    Cow::Owned(out)
}

/// As [`cited`], for a source that stands on a card; each is written out once.
pub fn cited_on_card(edition: Edition, source: &'static str) -> &'static str {
    static KNOWN: LazyLock<Mutex<HashMap<(Edition, &'static str), &'static str>>> =
        LazyLock::new(Mutex::default);
    if edition == Edition::Y2023 {
        return source;
    }
    let mut known = KNOWN.lock().unwrap_or_else(std::sync::PoisonError::into_inner);
    known
        .entry((edition, source))
        .or_insert_with(|| Box::leak(cited(edition, source).into_owned().into_boxed_str()))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_rule_has_the_number_of_its_edition() {
        let text = "705.12(B)(2), 240.6(A); Table 310.15(B)(1)(1), 90 °C; 310.16";
        assert_eq!(cited(Edition::Y2023, text), text);
        assert_eq!(
            cited(Edition::Y2020, text),
            "705.12(B)(3)(2), 240.6(A); Table 310.15(B)(1), 90 °C; 310.16"
        );
        assert_eq!(
            cited(Edition::Y2017, text),
            "705.12(B)(2)(3)(b), 240.6(A); Table 310.15(B)(2)(a), 90 °C; 310.15(B)(16)"
        );
        assert_eq!(cited(Edition::Y2017, "705.12(B)"), "705.12(B)(2)(3)");
        // What only begins like one is left alone.
        assert_eq!(cited(Edition::Y2017, "705.12(B)(9), 1310.16"), "705.12(B)(9), 1310.16");
        let once = cited_on_card(Edition::Y2017, "690.31(D)");
        assert!(std::ptr::eq(once, cited_on_card(Edition::Y2017, "690.31(D)")));
        assert_eq!(once, "690.31(G)");
    }
}
