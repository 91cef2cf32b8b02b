//! Faces filled with modules.

use heliant_core::evaluate;
use heliant_core::figure::Verdict;
use heliant_core::job::{self, FaceMap, Job, JobFile, Obstruction, Placed};
use heliant_core::school::School;
use heliant_core::search::{Fill, Lay, fill};

use crate::{check, kestrel};

/// A face of 10 x 6 m in the iec school: 0.3 m kept free all round.
fn plain_face() -> JobFile {
    let mut file = kestrel();
    let map = FaceMap { eave_m: Some(10.0), slope_m: Some(6.0), ..FaceMap::default() };
    file.job.school = School::Iec;
    file.job.roof.insert("se".into(), map);
    file
}

fn filled(file: &JobFile, lay: Lay) -> Result<usize, String> {
    let ask = Fill { face: "se".into(), lay, most_n: None };
    match fill(&file.job, &file.library, &ask) {
        Ok(done) => {
            let after = evaluate(&done.job, &file.library, &[]);
            assert_eq!(check(&after, "face.fits", "se").verdict, Verdict::Pass);
            assert_eq!(check(&after, "face.free", "se").verdict, Verdict::Pass);
            Ok(done.modules_n)
        }
        Err(problems) => Err(problems[0].message.clone()),
    }
}

#[test]
fn a_face_is_filled_with_as_many_as_find_room() {
    let mut file = plain_face();
    // 5.4 m up the slope: (5 400 + 20) / 1 742 = 3 rows; (9 400 + 20) / 1 154 = 8 columns.
    assert_eq!(filled(&file, Lay::Portrait), Ok(24));
    // (5 400 + 20) / 1 154 = 4 rows; (9 400 + 20) / 1 742 = 5 columns.
    assert_eq!(filled(&file, Lay::Landscape), Ok(20));
    assert_eq!(filled(&file, Lay::Both), Ok(24));
    // 4.9 m: 2 rows of 8 upright, and 4 900 + 20 - 2 x 1 742 = 1 436 mm for a row of 5 flat.
    file.job.roof.get_mut("se").expect("a map").slope_m = Some(5.5);
    assert_eq!(filled(&file, Lay::Portrait), Ok(16));
    assert_eq!(filled(&file, Lay::Both), Ok(21));
    // A chimney in the lower row, 4 000 to 5 000 mm and 100 mm around it: 3 600 mm are left of it
    // and 4 600 mm right of it, so 3 and 4 of its 8 modules.
    let o = Obstruction {
        name: String::new(),
        x_mm: 4_000.0,
        y_mm: 1_000.0,
        width_mm: 1_000.0,
        height_mm: 500.0,
        clearance_mm: 100.0,
    };
    file.job.roof.get_mut("se").expect("a map").obstructions.insert("c".into(), o);
    assert_eq!(filled(&file, Lay::Portrait), Ok(8 + 3 + 4));
}

#[test]
fn no_string_is_offered_more_modules_than_a_string_has() {
    let mut file = plain_face();
    let se = file.job.roof.get_mut("se").expect("a map");
    (se.eave_m, se.slope_m) = (Some(60.0), Some(20.0));
    let ask = Fill { face: "se".into(), lay: Lay::Portrait, most_n: None };
    let done = fill(&file.job, &file.library, &ask).expect("room");
    // 51 columns of 1.154 m in 59.4 m, 11 rows of 1.742 m in 19.4 m.
    assert_eq!(done.modules_n, 561);
    let r = evaluate(&done.job, &file.library, &[]);
    let own = check(&r, "face.modules_n", "se");
    assert_eq!(own.verdict, Verdict::Fail);
    let texts: Vec<&str> = own.cures.iter().map(|c| c.text.as_str()).collect();
    assert_eq!(texts, ["549 taken off the map: they are in no string."]);
}

#[test]
fn a_face_smaller_than_a_module_is_said() {
    let mut file = plain_face();
    file.job.roof.get_mut("se").expect("a map").slope_m = Some(2.2);
    let told = filled(&file, Lay::Portrait).expect_err("1.6 m are too few");
    assert_eq!(told, "no module of 1134 × 1722 mm finds room: 1.60 m are free up the slope");
    file.job.roof.get_mut("se").expect("a map").slope_m = None;
    assert_eq!(filled(&file, Lay::Portrait), Err("the face has no size".to_owned()));
}

#[test]
fn slanted_sides_and_the_path_along_one_of_them_take_their_room() {
    let mut file = kestrel();
    let map = FaceMap {
        eave_m: Some(10.0),
        ridge_m: Some(4.0),
        slope_m: Some(6.0),
        ..FaceMap::default()
    };
    file.job.roof.insert("se".into(), map);
    // na with paths: 0.3 m at the eave, 0.91 m at the ridge: 6 000 - 1 210 = 4 790 mm, two rows.
    // The sides come in by 3 000 mm on 6 000 mm. The lower row ends at 300 + 1 722 = 2 022 mm, so
    // 1 011 mm in: 10 000 - 2 022 - 910 - 300 = 6 768 mm, (6 768 + 20) / 1 154 = 5. The upper one
    // ends at 3 764 mm, 1 882 in: 10 000 - 3 764 - 1 210 = 5 026 mm, 4.
    assert_eq!(filled(&file, Lay::Portrait), Ok(5 + 4));
    // An out-building keeps no path: 0.3 m all round. 10 000 - 2 022 - 600 = 7 378 mm, 6;
    // 10 000 - 3 764 - 600 = 5 636 mm, 4; the third row would end at 5 506 mm: 10 000 - 5 506 - 600
    // = 3 894 mm, 3.
    file.job.settings.fire_paths = Some(false);
    assert_eq!(filled(&file, Lay::Portrait), Ok(6 + 4 + 3));
}

#[test]
fn a_face_takes_no_more_than_is_asked_and_its_keys_are_free() {
    let mut file = plain_face();
    let other = file.job.roof.get_mut("sw").expect("a map");
    other.modules.insert("se-002".into(), Placed::default());
    let ask = Fill { face: "se".into(), lay: Lay::Portrait, most_n: Some(5) };
    let done = fill(&file.job, &file.library, &ask).expect("there is room");
    assert_eq!((done.modules_n, done.room_n), (5, 24));
    let keys: Vec<String> = done.job.roof["se"].modules.keys().map(ToString::to_string).collect();
    assert_eq!(keys, ["se.1-001", "se.1-002", "se.1-003", "se.1-004", "se.1-005"]);
    // Strings of the face lie no longer where they were; those of the other face do.
    assert!(done.job.strings[0].modules.is_empty());
    assert_eq!(done.job.strings[1].modules, file.job.strings[1].modules);
    // Nothing of it is lost on the way through a file.
    let there = Job { school: School::Na, ..done.job };
    let text = JobFile::new(there.clone(), file.library.clone(), Vec::new()).to_text();
    let again = job::read(&text).map(|o| o.file.job);
    assert_eq!(again.expect("it reads"), there);
}
