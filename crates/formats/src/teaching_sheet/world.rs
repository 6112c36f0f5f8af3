//! What the typesetter may see: one template, one file of data, the fonts that ship with it. No clock, no disk, no network.

use std::sync::LazyLock;

use typst::diag::{FileError, FileResult};
use typst::foundations::{Bytes, Datetime, Duration};
use typst::syntax::{FileId, RootedPath, Source, VirtualPath, VirtualRoot};
use typst::text::{Font, FontBook};
use typst::utils::LazyHash;
use typst::{Library, LibraryExt, World};
use typst_kit::fonts::{FontStore, embedded};

static LIBRARY: LazyLock<LazyHash<Library>> = LazyLock::new(|| LazyHash::new(Library::default()));
static FONTS: LazyLock<FontStore> = LazyLock::new(|| {
    let mut fonts = FontStore::new();
    fonts.extend(embedded());
    fonts
});

/// A template with its data, which it reads as `data.json`: texts of users never pass as markup.
pub(super) struct Desk {
    template: Source,
    data: (FileId, Bytes),
}

impl Desk {
    pub fn new(template: &str, data: Vec<u8>) -> Option<Self> {
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
