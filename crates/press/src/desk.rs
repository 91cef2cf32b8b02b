//! The typesetter with its fonts and the order's files and nothing else: no file system, no
//! packages, no clock.

use std::collections::{BTreeMap, HashMap};

use serde_json::json;
use typst::diag::{FileError, FileResult};
use typst::foundations::{Bytes, Datetime, Duration, Smart};
use typst::syntax::{FileId, RootedPath, Source, VirtualPath, VirtualRoot};
use typst::text::{Font, FontBook};
use typst::utils::LazyHash;
use typst::{Library, LibraryExt, World};
use typst_layout::PagedDocument;
use typst_pdf::{PdfOptions, pdf as export};

use crate::{Phase, fonts};

struct Desk {
    library: LazyHash<Library>,
    book: LazyHash<FontBook>,
    fonts: Vec<Font>,
    main: Source,
    files: HashMap<FileId, Bytes>,
}

fn file_id(name: &str) -> Result<FileId, String> {
    let path = VirtualPath::new(name).map_err(|e| format!("{name}: {e:?}"))?;
    Ok(RootedPath::new(VirtualRoot::Project, path).intern())
}

impl World for Desk {
    fn library(&self) -> &LazyHash<Library> {
        &self.library
    }

    fn book(&self) -> &LazyHash<FontBook> {
        &self.book
    }

    fn main(&self) -> FileId {
        self.main.id()
    }

    fn source(&self, id: FileId) -> FileResult<Source> {
        if id == self.main.id() { Ok(self.main.clone()) } else { Err(FileError::AccessDenied) }
    }

    fn file(&self, id: FileId) -> FileResult<Bytes> {
        self.files.get(&id).cloned().ok_or(FileError::AccessDenied)
    }

    fn font(&self, index: usize) -> Option<Font> {
        self.fonts.get(index).cloned()
    }

    fn today(&self, _: Option<Duration>) -> Option<Datetime> {
        None
    }
}

/// Sets a template that reads the given files, and `lacking.json`: the characters that no font
/// holds.
pub(crate) fn pdf(
    template: String,
    mut files: BTreeMap<String, String>,
    ident: &str,
    phase: impl Fn(Phase),
) -> Result<Vec<u8>, String> {
    let (fonts, lacking) = fonts::for_text(files.values().map(String::as_str));
    files.insert("lacking.json".to_owned(), json!(lacking).to_string());
    let mut by_id = HashMap::new();
    for (name, content) in files {
        by_id.insert(file_id(&name)?, Bytes::new(content.into_bytes()));
    }
    let desk = Desk {
        library: LazyHash::new(Library::default()),
        book: LazyHash::new(FontBook::from_fonts(fonts.iter())),
        fonts,
        main: Source::new(file_id("main.typ")?, template),
        files: by_id,
    };
    let said = |errors: &[typst::diag::SourceDiagnostic]| {
        errors.iter().map(|e| e.message.to_string()).collect::<Vec<_>>().join("; ")
    };
    phase(Phase::Setting);
    let document: PagedDocument = typst::compile(&desk).output.map_err(|e| said(&e))?;
    phase(Phase::Writing);
    let options = PdfOptions { ident: Smart::Custom(ident.to_owned()), ..PdfOptions::default() };
    export(&document, &options).map_err(|e| said(&e))
}
