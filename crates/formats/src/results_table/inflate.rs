//! What a workbook unpacks to, found out before anything of it is kept. What its directory says of that is not believed: a file of
//! some kilobytes can unpack to more than any memory holds.

use std::io::{Cursor, Read, sink};

use zip::ZipArchive;

/// A table of the longest length with every column full unpacks to less.
const MOST: u64 = 128 * 1024 * 1024;
/// Texts are kept whole while the table is read.
const MOST_TEXTS: u64 = 32 * 1024 * 1024;
/// A workbook has a few dozen parts.
const MOST_PARTS: usize = 2_000;

/// What a workbook's parts tell about it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct Parts {
    /// It brings programs along. They are never looked at.
    pub macros: bool,
}

/// Why a file is not opened.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Refused {
    /// It is no archive that can be read.
    Unreadable,
    /// It unpacks to too much.
    TooMuch,
}

/// Unpacks every part once and keeps none of it.
pub(super) fn inspect(bytes: &[u8]) -> Result<Parts, Refused> {
    let mut archive = ZipArchive::new(Cursor::new(bytes)).map_err(|_| Refused::Unreadable)?;
    if archive.len() > MOST_PARTS {
        return Err(Refused::TooMuch);
    }
    let (mut left, mut macros) = (MOST, false);
    for index in 0..archive.len() {
        let part = archive.by_index(index).map_err(|_| Refused::Unreadable)?;
        let name = part.name().map_err(|_| Refused::Unreadable)?.to_ascii_lowercase();
        macros |= name.ends_with("vbaproject.bin");
        // Of all but the sheets themselves the whole is held in memory.
        let allowed = if name.contains("worksheets/") { left } else { left.min(MOST_TEXTS) };
        let size = std::io::copy(&mut part.take(allowed + 1), &mut sink()).map_err(|_| Refused::Unreadable)?;
        if size > allowed {
            return Err(Refused::TooMuch);
        }
        left -= size;
    }
    Ok(Parts { macros })
}
