//! The typesetter with our fonts and nothing else: no file system, no packages, no clock.

use std::collections::HashMap;
use std::sync::LazyLock;

use typst::diag::{FileError, FileResult};
use typst::foundations::{Bytes, Datetime, Duration};
use typst::syntax::{FileId, RootedPath, Source, VirtualPath, VirtualRoot};
use typst::text::{Font, FontBook};
use typst::utils::LazyHash;
use typst::{Library, LibraryExt, World};
use typst_layout::PagedDocument;
use typst_pdf::{PdfOptions, pdf as export};

static FONTS: LazyLock<Vec<Font>> = LazyLock::new(|| {
    [
        &include_bytes!("../fonts/AtkinsonHyperlegibleNext-Regular.ttf")[..],
        &include_bytes!("../fonts/AtkinsonHyperlegibleNext-Bold.ttf")[..],
        &include_bytes!("../fonts/AtkinsonHyperlegibleMono-Regular.ttf")[..],
        &include_bytes!("../fonts/AtkinsonHyperlegibleMono-Bold.ttf")[..],
        // Stands in for scripts the others do not hold: Greek, Cyrillic, Hebrew, Arabic.
        &include_bytes!("../fonts/DejaVuSans.ttf")[..],
    ]
    .into_iter()
    .flat_map(|data| Font::iter(Bytes::new(data)))
    .collect()
});

struct Desk {
    library: LazyHash<Library>,
    book: LazyHash<FontBook>,
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
        FONTS.get(index).cloned()
    }

    fn today(&self, _: Option<Duration>) -> Option<Datetime> {
        None
    }
}

/// Sets a template that reads the given files.
pub(crate) fn pdf(
    template: &str,
    files: Vec<(String, Vec<u8>)>,
    ident: &str,
) -> Result<Vec<u8>, String> {
    let mut by_id = HashMap::new();
    for (name, content) in files {
        by_id.insert(file_id(&name)?, Bytes::new(content));
    }
    let desk = Desk {
        library: LazyHash::new(Library::default()),
        book: LazyHash::new(FontBook::from_fonts(FONTS.iter())),
        main: Source::new(file_id("pack.typ")?, template.to_owned()),
        files: by_id,
    };
    let said = |errors: &[typst::diag::SourceDiagnostic]| {
        errors.iter().map(|e| e.message.to_string()).collect::<Vec<_>>().join("; ")
    };
    let document: PagedDocument = typst::compile(&desk).output.map_err(|e| said(&e))?;
    let options = PdfOptions {
        ident: typst::foundations::Smart::Custom(ident.to_owned()),
        ..PdfOptions::default()
    };
    let bytes = export(&document, &options).map_err(|e| said(&e))?;
    // What is remembered between documents is dropped: each job is another document.
    typst::comemo::evict(2);
    Ok(bytes)
}
