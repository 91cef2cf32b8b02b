//! The fonts: our own, and Debian's for scripts that ours do not hold, where they are installed.

use std::path::Path;
use std::sync::LazyLock;

use typst::foundations::Bytes;
use typst::text::Font;

/// Fonts that come with the program, in the order they are asked.
static OWN: LazyLock<Vec<Font>> = LazyLock::new(|| {
    [
        &include_bytes!("../fonts/AtkinsonHyperlegibleNext-Regular.ttf")[..],
        &include_bytes!("../fonts/AtkinsonHyperlegibleNext-Bold.ttf")[..],
        &include_bytes!("../fonts/AtkinsonHyperlegibleMono-Regular.ttf")[..],
        &include_bytes!("../fonts/AtkinsonHyperlegibleMono-Bold.ttf")[..],
        // Stands in for Greek, Cyrillic, Hebrew, Arabic.
        &include_bytes!("../fonts/DejaVuSans.ttf")[..],
    ]
    .into_iter()
    .flat_map(|data| Font::iter(Bytes::new(data)))
    .collect()
});

/// Where Debian keeps a font for Chinese, Japanese and Korean (fonts-wqy-zenhei), for
/// Devanagari (fonts-lohit-deva) and for Thai (fonts-tlwg-garuda-ttf).
const DEBIAN: [&str; 3] = [
    "/usr/share/fonts/truetype/wqy/wqy-zenhei.ttc",
    "/usr/share/fonts/truetype/lohit-devanagari/Lohit-Devanagari.ttf",
    "/usr/share/fonts/truetype/tlwg/Garuda.ttf",
];

/// The fonts a text needs: our own, and of Debian's those that hold a character ours lack. Second,
/// the characters that none of them holds.
pub(crate) fn for_text<'a>(texts: impl Iterator<Item = &'a str>) -> (Vec<Font>, Vec<char>) {
    let mut fonts = OWN.clone();
    let held = |fonts: &[Font], c: char| fonts.iter().any(|f| f.info().coverage.contains(c as u32));
    let mut lacking: Vec<char> =
        texts.flat_map(str::chars).filter(|c| !c.is_ascii() && !c.is_control()).collect();
    lacking.sort_unstable();
    lacking.dedup();
    lacking.retain(|c| !held(&fonts, *c));
    for path in DEBIAN {
        if lacking.is_empty() {
            break;
        }
        let more = read(Path::new(path));
        if lacking.iter().any(|c| held(&more, *c)) {
            lacking.retain(|c| !held(&more, *c));
            fonts.extend(more);
        }
    }
    (fonts, lacking)
}

/// The fonts of a file; none where it is not there.
fn read(path: &Path) -> Vec<Font> {
    std::fs::read(path).map_or_else(|_| Vec::new(), |data| Font::iter(Bytes::new(data)).collect())
}
