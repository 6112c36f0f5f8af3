//! The typesetter and what it may see: one template, one file of data, the fonts that ship with it, and those of the system for scripts
//! that they lack. No clock, no other file, no network.

use std::sync::LazyLock;

use serde_json::Value;
use typst::diag::{FileError, FileResult};
use typst::foundations::{Bytes, Datetime, Duration};
use typst::syntax::{FileId, RootedPath, Source, VirtualPath, VirtualRoot};
use typst::text::{Font, FontBook};
use typst::utils::LazyHash;
use typst::{Library, LibraryExt, World};
use typst_kit::fonts::{FontStore, embedded, system};
use typst_layout::PagedDocument;
use typst_pdf::PdfOptions;
use typst_render::RenderOptions;
use typst_svg::SvgOptions;

static LIBRARY: LazyLock<LazyHash<Library>> = LazyLock::new(|| LazyHash::new(Library::default()));
static FONTS: LazyLock<FontStore> = LazyLock::new(|| {
    let mut fonts = FontStore::new();
    fonts.extend(embedded());
    // Templates name the fonts that ship; these are for letters that those do not have.
    fonts.extend(system());
    fonts
});

/// Why something could not be set.
#[derive(Debug, thiserror::Error)]
#[error("it could not be typeset: {0}")]
pub struct TypesettingError(String);

impl TypesettingError {
    pub(crate) fn of(message: &dyn std::fmt::Debug) -> Self {
        Self(format!("{message:?}"))
    }
}

/// Sets a template with its data.
pub(crate) fn typeset(template: &str, data: &Value) -> Result<PagedDocument, TypesettingError> {
    let data = serde_json::to_vec(data).map_err(|error| TypesettingError::of(&error))?;
    let desk = Desk::new(template, data).ok_or_else(|| TypesettingError::of(&"no place for the template"))?;
    let set = typst::compile(&desk).output.map_err(|errors| TypesettingError::of(&errors));
    // What was remembered of others is let go by and by; the fonts and the template stay.
    typst::comemo::evict(10);
    set
}

/// Pixels per point of a bitmap: 288 per inch, as journals ask for pictures with lines.
const SHARPNESS: f64 = 4.0;
/// A bitmap has no more pixels than this, 160 MB while it is drawn: a figure of hundreds of rows gets coarser instead.
const MOST_PIXELS: f64 = 40e6;

/// What a figure is written as.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum FigureFormat {
    /// A PDF with its fonts.
    Pdf,
    /// An SVG whose letters are outlines, so that it looks the same everywhere.
    Svg,
    /// A PNG at 288 pixels per inch, coarser where that would be too large.
    Png,
}

impl FigureFormat {
    /// All of them.
    pub const ALL: [Self; 3] = [Self::Pdf, Self::Svg, Self::Png];

    /// The end of a file's name.
    #[must_use]
    pub fn ending(self) -> &'static str {
        match self {
            Self::Pdf => "pdf",
            Self::Svg => "svg",
            Self::Png => "png",
        }
    }

    /// The one with this ending.
    #[must_use]
    pub fn from_ending(ending: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|it| it.ending() == ending)
    }

    /// Its media type.
    #[must_use]
    pub fn media_type(self) -> &'static str {
        match self {
            Self::Pdf => "application/pdf",
            Self::Svg => "image/svg+xml",
            Self::Png => "image/png",
        }
    }
}

/// A figure of one page.
pub(crate) fn figure(document: &PagedDocument, format: FigureFormat) -> Result<Vec<u8>, TypesettingError> {
    let page = document.pages().first().ok_or_else(|| TypesettingError::of(&"no page"))?;
    match format {
        FigureFormat::Pdf => pdf(document),
        FigureFormat::Svg => Ok(typst_svg::svg(page, &SvgOptions::default()).into_bytes()),
        FigureFormat::Png => {
            let size = page.frame.size();
            let sharpness = SHARPNESS.min((MOST_PIXELS / (size.x.to_pt() * size.y.to_pt()).max(1.0)).sqrt());
            let options = RenderOptions { pixel_per_pt: sharpness.into(), ..RenderOptions::default() };
            typst_render::render(page, &options).encode_png().map_err(|error| TypesettingError::of(&error))
        }
    }
}

/// As a PDF; the same document gives the same bytes.
pub(crate) fn pdf(document: &PagedDocument) -> Result<Vec<u8>, TypesettingError> {
    typst_pdf::pdf(document, &PdfOptions::default()).map_err(|errors| TypesettingError::of(&errors))
}

/// A template with its data, which it reads as `data.json`: texts of users never pass as markup.
struct Desk {
    template: Source,
    data: (FileId, Bytes),
}

impl Desk {
    fn new(template: &str, data: Vec<u8>) -> Option<Self> {
        let file =
            |name: &str| VirtualPath::new(name).ok().map(|path| RootedPath::new(VirtualRoot::Project, path).intern());
        Some(Self {
            template: Source::new(file("sheet.typ")?, template.to_owned()),
            data: (file("data.json")?, Bytes::new(data)),
        })
    }
}

impl World for Desk {
    fn library(&self) -> &LazyHash<Library> {
        &LIBRARY
    }

    fn book(&self) -> &LazyHash<FontBook> {
        FONTS.book()
    }

    fn main(&self) -> FileId {
        self.template.id()
    }

    fn source(&self, id: FileId) -> FileResult<Source> {
        if id == self.template.id() { Ok(self.template.clone()) } else { Err(FileError::AccessDenied) }
    }

    fn file(&self, id: FileId) -> FileResult<Bytes> {
        if id == self.data.0 { Ok(self.data.1.clone()) } else { Err(FileError::AccessDenied) }
    }

    fn font(&self, index: usize) -> Option<Font> {
        FONTS.font(index)
    }

    fn today(&self, _offset: Option<Duration>) -> Option<Datetime> {
        None
    }
}

#[cfg(test)]
mod tests {
    use typst::layout::{Frame, FrameItem};

    use super::*;

    /// Letters that no font has.
    fn boxes(frame: &Frame) -> Vec<String> {
        frame
            .items()
            .flat_map(|(_, item)| match item {
                FrameItem::Group(group) => boxes(&group.frame),
                FrameItem::Text(text) if text.glyphs.iter().any(|glyph| glyph.id == 0) => vec![text.text.to_string()],
                _ => Vec::new(),
            })
            .collect()
    }

    #[test]
    fn names_of_every_script_are_set_in_letters_and_english_in_the_font_that_ships() {
        let names = "Κάμψη, Сгибание, הטיה, انثناء, मोड़, การงอ, 屈曲検査, 굽힘, Bükülme, thử nghiệm";
        let template = r#"#set text(font: "Libertinus Serif"); Flexion #json("data.json")"#;
        let set = typeset(template, &Value::String(names.to_owned())).unwrap();
        let frame = &set.pages()[0].frame;
        assert_eq!(boxes(frame), Vec::<String>::new(), "a font is missing: script/test installs them");
        fn first(frame: &Frame) -> Option<String> {
            frame.items().find_map(|(_, item)| match item {
                FrameItem::Group(group) => first(&group.frame),
                FrameItem::Text(text) => Some(text.font.info().family.to_string()),
                _ => None,
            })
        }
        assert_eq!(first(frame).as_deref(), Some("Libertinus Serif"));
    }
}
