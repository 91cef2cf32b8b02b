use heliant_core::evaluate;
use heliant_core::job;
use heliant_core::one_line::{Paper, Title, one_line};
use heliant_documents::sheet_svg;
fn main() {
    for p in std::env::args().skip(1) {
        let file = job::read(&std::fs::read_to_string(&p).unwrap()).expect("reads").file;
        let r = evaluate(&file.job, &file.library, &[]);
        let d = one_line(&file.job, &file.library, &r, &Title::default(), Paper::A4);
        let name = std::path::Path::new(&p).file_stem().unwrap().to_string_lossy().to_string();
        for (k, s) in d.sheets.iter().enumerate() {
            std::fs::write(format!("/tmp/ol-{name}-{k}.svg"), sheet_svg(s, &[])).unwrap();
        }
    }
}
