//! Data sheets as a table: CSV in and out, a column for each field. `mppts.N.field` is a field of
//! MPPT N;
//! `mppts.all.field` with `mppts_n` stands for that many like MPPTs.
//!
//! Read are comma, semicolon and tab, found from the header, with or without a byte-order mark. A
//! decimal comma is read where the columns are not parted by commas.

use std::collections::HashSet;

use serde::Serialize;
use serde_json::{Map, Value, json};
use utoipa::ToSchema;

use super::entry::{read, room};
use super::{DataSheet, Field, Library, SheetKind};
use crate::problem::{Problem, Problems, shortened};
use crate::schema::did_you_mean;

/// Most rows of a table, and sheets of a file.
pub const MAX_ROWS: usize = 2000;

/// Most columns of a table: fifty MPPTs take some six hundred.
const MAX_COLUMNS: usize = 1000;
/// Longest cell, in bytes. A quote that is opened and not closed makes one of all that follows.
const MAX_CELL: usize = 2000;

/// A sheet found in a file, by its row.
#[derive(Clone, Debug)]
pub struct Row {
    /// Row of the table, the header being 1; place in the list for JSON, from 1.
    pub row: usize,
    /// The sheet.
    pub sheet: DataSheet,
}

/// One line of a preview.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct PreviewRow {
    /// Row of the file.
    pub row: usize,
    /// Kind.
    pub kind: SheetKind,
    /// Key of the sheet.
    pub sheet: String,
    /// Its revision.
    pub revision: u32,
    /// Maker and model.
    pub name: String,
    /// What an import does with it.
    pub becomes: Becomes,
}

/// What an import does with a sheet.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Becomes {
    /// A sheet the library has not.
    New,
    /// A further revision of one it has.
    NewRevision,
    /// It is there just so.
    There,
}

/// Compares what was read with what is there.
///
/// # Errors
/// Revisions that are there with other values, and sheets that stand twice in the file.
pub fn preview(rows: &[Row], there: &Library) -> Result<Vec<PreviewRow>, Vec<Problem>> {
    let known = there.sheets();
    let mut problems = Vec::new();
    let mut seen = HashSet::new();
    let mut lines = Vec::new();
    for r in rows {
        let (kind, reference, head) = (r.sheet.kind(), r.sheet.reference(), r.sheet.head());
        let place = format!("/rows/{}/revision", r.row);
        if !seen.insert((kind, reference.sheet.clone(), reference.revision)) {
            let text = format!(
                "{} revision {} stands twice in the file",
                reference.sheet, reference.revision
            );
            problems.push(Problem::new(place.clone(), text, "keep one"));
        }
        let own: Vec<&DataSheet> = known
            .iter()
            .filter(|k| k.kind() == kind && k.reference().sheet == reference.sheet)
            .collect();
        let newest = own.iter().map(|k| k.reference().revision).max().unwrap_or(0);
        let becomes = match own.iter().find(|k| k.reference() == reference) {
            Some(same) if **same == r.sheet => Becomes::There,
            Some(_) => {
                let text = format!(
                    "{} revision {} is there with other values",
                    reference.sheet, reference.revision
                );
                problems.push(Problem::new(
                    place,
                    text,
                    format!("a revision never changes: give it number {}", newest + 1),
                ));
                Becomes::There
            }
            None => {
                let room = room((!own.is_empty()).then_some(newest), reference.revision);
                problems.extend(room.err().map(|p| p.at(|_| place)));
                if own.is_empty() { Becomes::New } else { Becomes::NewRevision }
            }
        };
        lines.push(PreviewRow {
            row: r.row,
            kind,
            sheet: reference.sheet,
            revision: reference.revision,
            name: format!("{} {}", head.maker, head.model),
            becomes,
        });
    }
    if problems.is_empty() { Ok(lines) } else { Err(problems) }
}

/// Reads a library as JSON: `{"modules": [...], "inverters": [...], ...}`, as it is exported.
///
/// # Errors
/// Everything wrong, by place.
pub fn read_json(text: &str) -> Result<Vec<Row>, Vec<Problem>> {
    let text = text.strip_prefix('\u{feff}').unwrap_or(text);
    let hint = "one object with the lists modules, inverters, optimizers, micros";
    let value: Value = serde_json::from_str(text)
        .map_err(|e| vec![Problem::new("", format!("not JSON: {e}"), hint)])?;
    let Value::Object(lists) = value else {
        return Err(vec![Problem::new("", "not an object", hint)]);
    };
    let (mut rows, mut problems) = (Vec::new(), Problems::default());
    for (name, list) in lists {
        let (Some(kind), Value::Array(list)) = (SheetKind::of_list(&name), list) else {
            problems.push(Problem::new(format!("/{name}"), "is no list of data sheets", hint));
            continue;
        };
        if rows.len() + list.len() > MAX_ROWS {
            let message = format!("{} data sheets and more", rows.len() + list.len());
            problems.push(Problem::new("", message, format!("at most {MAX_ROWS} at a time")));
            break;
        }
        for (i, document) in list.into_iter().enumerate() {
            match read(kind, document) {
                Ok(sheet) => rows.push(Row { row: i + 1, sheet }),
                Err(wrong) => problems
                    .extend(wrong.into_iter().map(|p| p.at(|own| format!("/{name}/{i}{own}")))),
            }
        }
    }
    if problems.is_empty() && rows.is_empty() {
        problems.push(Problem::new("", "there is no data sheet in it", hint));
    }
    if problems.is_empty() { Ok(rows) } else { Err(problems.told()) }
}

/// Reads a table of one kind.
///
/// # Errors
/// Everything wrong, by row and column: `/rows/3/ratings.voc_v`. The header is row 1.
pub fn read_csv(kind: SheetKind, text: &str) -> Result<Vec<Row>, Vec<Problem>> {
    let text = text.strip_prefix('\u{feff}').unwrap_or(text);
    let all = kind.fields();
    let header = text.lines().next().unwrap_or_default();
    let delimiter = delimiter_of(header);
    let mut reader = csv::ReaderBuilder::new()
        .delimiter(delimiter)
        .flexible(true)
        .trim(csv::Trim::All)
        .from_reader(text.as_bytes());
    let columns: Vec<String> = match reader.headers() {
        Ok(h) => h.iter().map(str::to_owned).collect(),
        Err(e) => {
            return Err(vec![Problem::new(
                "/rows/1",
                format!("the header does not read: {e}"),
                "",
            )]);
        }
    };
    let places = header_places(&columns, &all, header)?;
    let (mut rows, mut problems) = (Vec::new(), Problems::default());
    for (i, record) in reader.records().enumerate() {
        let row = i + 2;
        if i >= MAX_ROWS {
            let lines = text.lines().filter(|l| !l.trim().is_empty()).count().saturating_sub(1);
            return Err(vec![Problem::new(
                "",
                format!("the table has {lines} rows"),
                format!("at most {MAX_ROWS} at a time: split it"),
            )]);
        }
        let record = match record {
            Ok(r) => r,
            Err(e) => {
                problems.push(Problem::new(
                    format!("/rows/{row}"),
                    format!("does not read: {e}"),
                    "UTF-8 text with closed quotes",
                ));
                continue;
            }
        };
        if record.iter().all(str::is_empty) {
            continue;
        }
        if let Some(cell) = record.iter().find(|c| c.len() > MAX_CELL) {
            let message = format!("the cell `{}` has {} bytes", shortened(cell), cell.len());
            let hint = format!("{MAX_CELL} at most; is a quote opened and not closed before it?");
            problems.push(Problem::new(format!("/rows/{row}"), message, hint));
            break;
        }
        if record.len() != columns.len() {
            let text = format!("has {} cells, the header has {}", record.len(), columns.len());
            problems.push(Problem::new(
                format!("/rows/{row}"),
                text,
                "a value that holds the delimiter has to stand in quotes",
            ));
            continue;
        }
        match document(&record, &places, delimiter) {
            Ok(document) => match read(kind, document) {
                Ok(sheet) => rows.push(Row { row, sheet }),
                Err(wrong) => problems.extend(wrong.into_iter().map(|p| {
                    p.at(|own| {
                        let column = own.trim_start_matches('/').replace('/', ".");
                        format!("/rows/{row}/{}", one_based(&column))
                    })
                })),
            },
            Err(wrong) => {
                problems.extend(wrong.into_iter().map(|p| p.at(|own| format!("/rows/{row}/{own}"))))
            }
        }
    }
    if problems.is_empty() && rows.is_empty() {
        problems.push(Problem::new(
            "",
            "there is no row under the header",
            "a row for each data sheet",
        ));
    }
    if problems.is_empty() { Ok(rows) } else { Err(problems.told()) }
}

/// What parts the columns of a header: comma, semicolon or tab, whichever it has most of.
pub(crate) fn delimiter_of(header: &str) -> u8 {
    [b',', b';', b'\t']
        .into_iter()
        .max_by_key(|d| header.bytes().filter(|b| b == d).count())
        .unwrap_or(b',')
}

/// A path in the document as a column is named: MPPTs count from 1 there.
fn one_based(column: &str) -> String {
    match column
        .strip_prefix("mppts.")
        .and_then(|rest| rest.split_once('.'))
        .and_then(|(k, f)| Some((k.parse::<usize>().ok()?, f)))
    {
        Some((k, field)) => format!("mppts.{}.{field}", k + 1),
        None => column.to_owned(),
    }
}

/// Where the value of a column goes.
enum Place {
    Field(Field),
    /// A field of one MPPT, from 0.
    Mppt(usize, Field),
    /// A field of every MPPT.
    AllMppts(Field),
    MpptCount,
}

fn header_places(
    columns: &[String],
    all: &[Field],
    header: &str,
) -> Result<Vec<(String, Place)>, Vec<Problem>> {
    if columns.len() > MAX_COLUMNS {
        let message = format!("the header has {} columns", columns.len());
        return Err(vec![Problem::new("/rows/1", message, format!("{MAX_COLUMNS} at most"))]);
    }
    let mut problems = Problems::default();
    let mut places = Vec::new();
    let find = |key: &str| all.iter().find(|f| f.key == key).copied();
    for column in columns {
        let place = match column.strip_prefix("mppts.").and_then(|rest| rest.split_once('.')) {
            Some(("all", field)) => find(&format!("mppts.*.{field}")).map(Place::AllMppts),
            Some((k, field)) => match k.parse::<usize>() {
                Ok(k @ 1..=50) => find(&format!("mppts.*.{field}")).map(|f| Place::Mppt(k - 1, f)),
                _ => None,
            },
            None if column == "mppts_n" && find("mppts.*.mppt_min_v").is_some() => {
                Some(Place::MpptCount)
            }
            None => find(column).map(Place::Field),
        };
        match place {
            Some(p) => places.push((column.clone(), p)),
            None => {
                let hint = did_you_mean(column, all.iter().map(|f| f.key), 3.max(column.len() / 4))
                    .unwrap_or_else(|| {
                        "the columns are named in the documentation and in an export".to_owned()
                    });
                problems.push(Problem::new(
                    "/rows/1",
                    format!("unknown column `{}`", shortened(column)),
                    hint,
                ));
            }
        }
        if places.iter().filter(|(c, _)| c == column).count() > 1 {
            problems.push(Problem::new(
                "/rows/1",
                format!("the column `{column}` stands twice"),
                "keep one",
            ));
        }
    }
    if places.is_empty() {
        let other = ['|', ':', ' ']
            .into_iter()
            .find(|d| header.split(*d).any(|c| find(c.trim()).is_some()));
        let text = match other {
            Some(d) => format!("the columns are parted by `{d}`"),
            None => "the first row is no header of this kind of data sheet".to_owned(),
        };
        let hint = "comma, semicolon or tab, and the columns as an export has them";
        return Err(vec![Problem::new("/rows/1", text, hint)]);
    } else {
        for needed in ["sheet", "revision", "maker", "model"] {
            if !columns.iter().any(|c| c == needed) {
                problems.push(Problem::new(
                    "/rows/1",
                    format!("the column `{needed}` is missing"),
                    "it has to be there",
                ));
            }
        }
    }
    if problems.is_empty() { Ok(places) } else { Err(problems.told()) }
}

/// A row as a document; the places of its problems are columns.
fn document(
    record: &csv::StringRecord,
    places: &[(String, Place)],
    delimiter: u8,
) -> Result<Value, Vec<Problem>> {
    let mut root = Map::new();
    let mut mppts: Vec<Map<String, Value>> = Vec::new();
    let mut problems = Vec::new();
    let count = places
        .iter()
        .zip(record)
        .find(|((_, p), _)| matches!(p, Place::MpptCount))
        .map(|(_, cell)| cell);
    if let Some(cell) = count.filter(|c| !c.is_empty()) {
        match cell.parse::<usize>() {
            Ok(n @ 1..=50) => mppts = vec![Map::new(); n],
            _ => problems.push(Problem::new(
                "mppts_n",
                format!("`{}` is no count of MPPTs", shortened(cell)),
                "1 to 50",
            )),
        }
    }
    for ((column, place), cell) in places.iter().zip(record) {
        if cell.is_empty() {
            continue;
        }
        let field = match place {
            Place::MpptCount => continue,
            Place::Field(f) | Place::Mppt(_, f) | Place::AllMppts(f) => f,
        };
        let value = match parse(field, cell, delimiter) {
            Ok(v) => v,
            Err((message, hint)) => {
                problems.push(Problem::new(column.clone(), message, hint));
                continue;
            }
        };
        let name = field.key.rsplit('.').next().unwrap_or(field.key).to_owned();
        match place {
            Place::Mppt(k, _) => {
                if mppts.len() <= *k {
                    mppts.resize(k + 1, Map::new());
                }
                mppts[*k].insert(name, value);
            }
            Place::AllMppts(_) if mppts.is_empty() => {
                problems.push(Problem::new(
                    column.clone(),
                    "stands for all MPPTs, but how many is not said",
                    "give mppts_n before it",
                ));
            }
            Place::AllMppts(_) => {
                for m in &mut mppts {
                    m.entry(name.clone()).or_insert_with(|| value.clone());
                }
            }
            _ => match field.key.split_once('.') {
                Some((object, name)) => {
                    let inner = root.entry(object.to_owned()).or_insert_with(|| json!({}));
                    inner[name] = value;
                }
                None => {
                    root.insert(field.key.to_owned(), value);
                }
            },
        }
    }
    if places
        .iter()
        .any(|(_, p)| matches!(p, Place::Mppt(..) | Place::AllMppts(_) | Place::MpptCount))
    {
        root.insert("mppts".to_owned(), json!(mppts));
    }
    for object in ["ratings", "trunk"] {
        let wanted = places
            .iter()
            .any(|(c, _)| c.strip_prefix(object).is_some_and(|rest| rest.starts_with('.')));
        if wanted && !root.contains_key(object) {
            root.insert(object.to_owned(), json!({}));
        }
    }
    if problems.is_empty() { Ok(Value::Object(root)) } else { Err(problems) }
}

type Wrong = (String, String);

/// A cell as a value of its field.
fn parse(field: &Field, cell: &str, delimiter: u8) -> Result<Value, Wrong> {
    match field.input {
        "flag" | "yes_no" => match cell.to_ascii_lowercase().as_str() {
            "yes" | "true" | "1" => Ok(json!(true)),
            "no" | "false" | "0" => Ok(json!(false)),
            _ => Err((
                format!("`{}` is neither yes nor no", shortened(cell)),
                "yes or no".to_owned(),
            )),
        },
        "number" => decimal(cell, delimiter)
            .map(|n| if n.fract() == 0.0 && n.abs() < 1e15 { json!(n as i64) } else { json!(n) }),
        _ => Ok(json!(unescaped(cell))),
    }
}

/// What a spreadsheet takes for a formula where a text begins with it.
const FORMULA: [char; 6] = ['=', '+', '-', '@', '\t', '\r'];

/// A text as it stands in a table: with an apostrophe before it where a spreadsheet would compute
/// it.
fn escaped(text: &str) -> String {
    let quote = if text.starts_with(FORMULA) { "'" } else { "" };
    format!("{quote}{text}")
}

/// The text of a cell as an export escapes it.
fn unescaped(cell: &str) -> &str {
    cell.strip_prefix('\'').filter(|rest| rest.starts_with(FORMULA)).unwrap_or(cell)
}

/// A number with a point, or with a comma where the columns are not parted by commas.
pub(crate) fn decimal(cell: &str, delimiter: u8) -> Result<f64, Wrong> {
    let plain = cell.replace(['\u{2212}', '\u{2013}'], "-");
    let text = match plain.split_once(',') {
        None => plain,
        Some(_) if delimiter == b',' => {
            return Err((
                format!("`{}` has a decimal comma", shortened(cell)),
                "write a point, or part the columns by semicolons".to_owned(),
            ));
        }
        Some((_, after))
            if after.contains([',', '.'])
                || (after.len() == 3 && !plain.starts_with("0,") && !plain.starts_with("-0,")) =>
        {
            let hint = format!("{} or {}", plain.replace(',', "."), plain.replace(',', ""));
            return Err((format!("`{}` can be read in two ways", shortened(cell)), hint));
        }
        Some(_) => plain.replace(',', "."),
    };
    match text.parse::<f64>() {
        Ok(n) if n.is_finite() => Ok(n),
        _ => Err((
            format!("`{}` is not a number", shortened(cell)),
            "a plain number, without its unit".to_owned(),
        )),
    }
}

/// The sheets of a kind as a table.
pub fn write_csv(kind: SheetKind, library: &Library) -> String {
    let sheets: Vec<Value> =
        library.sheets().iter().filter(|s| s.kind() == kind).map(DataSheet::document).collect();
    let inputs =
        sheets.iter().map(|s| s["mppts"].as_array().map_or(0, Vec::len)).max().unwrap_or(0).max(1);
    let mut columns: Vec<(String, String)> = Vec::new();
    let all = kind.fields();
    let plain = |f: &Field| (f.key.to_owned(), format!("/{}", f.key.replace('.', "/")));
    columns.extend(all.iter().filter(|f| !f.key.contains('*')).map(plain));
    for k in 0..inputs {
        for f in all.iter().filter(|f| f.key.contains('*')) {
            let name = f.key.rsplit('.').next().unwrap_or_default();
            columns.push((format!("mppts.{}.{name}", k + 1), format!("/mppts/{k}/{name}")));
        }
    }
    let mut writer = csv::Writer::from_writer(Vec::new());
    let cell = |v: Option<&Value>| match v {
        None | Some(Value::Null) => String::new(),
        Some(Value::String(s)) => escaped(s),
        Some(Value::Bool(b)) => if *b { "yes" } else { "no" }.to_owned(),
        // A whole number is written without its point.
        Some(Value::Number(n)) => match n.as_f64() {
            Some(f) if f.fract() == 0.0 && f.abs() < 1e15 => format!("{f:.0}"),
            _ => n.to_string(),
        },
        Some(other) => other.to_string(),
    };
    let header: Vec<&str> = columns.iter().map(|(c, _)| c.as_str()).collect();
    writer.write_record(&header).expect("memory takes it");
    for sheet in &sheets {
        let record: Vec<String> =
            columns.iter().map(|(_, pointer)| cell(sheet.pointer(pointer))).collect();
        writer.write_record(&record).expect("memory takes it");
    }
    String::from_utf8(writer.into_inner().expect("memory takes it")).expect("only text was written")
}
