//! References in the formats that bibliographies are exchanged in: RIS, BibTeX, CSL-JSON and the text that PubMed saves.
//!
//! What each format is good for decides what is read from it; all of them write a reference so that it comes back the same.

mod bibtex;
mod citation;
mod csl_json;
mod tagged;

use pruvex_core::evidence::{Reference, ReferenceInput};
use pruvex_core::{Faults, FieldError, FieldErrorCode};

pub use citation::{CitationStyle, cite};
pub use csl_json::read_csl_item;

/// A format of references.
#[derive(Debug, Clone, Copy, PartialEq, Eq, serde::Serialize, serde::Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ReferenceFormat {
    /// Two-letter tags, `TY  - JOUR`.
    Ris,
    /// `@article{key, ...}`.
    Bibtex,
    /// The JSON that citation processors read.
    CslJson,
    /// Four-letter tags, `PMID- 1`.
    Pubmed,
}

impl ReferenceFormat {
    /// All formats.
    pub const ALL: [Self; 4] = [Self::Ris, Self::Bibtex, Self::CslJson, Self::Pubmed];

    /// Code in addresses.
    #[must_use]
    pub fn code(self) -> &'static str {
        match self {
            Self::Ris => "ris",
            Self::Bibtex => "bibtex",
            Self::CslJson => "csl_json",
            Self::Pubmed => "pubmed",
        }
    }

    /// Usual ending of a file.
    #[must_use]
    pub fn ending(self) -> &'static str {
        match self {
            Self::Ris => "ris",
            Self::Bibtex => "bib",
            Self::CslJson => "json",
            Self::Pubmed => "txt",
        }
    }

    /// Media type of a file.
    #[must_use]
    pub fn media_type(self) -> &'static str {
        match self {
            Self::Ris => "application/x-research-info-systems; charset=utf-8",
            Self::Bibtex => "application/x-bibtex; charset=utf-8",
            Self::CslJson => "application/vnd.citationstyles.csl+json",
            Self::Pubmed => "text/plain; charset=utf-8",
        }
    }

    /// The format that a text is in, by what it begins with.
    fn of(text: &str) -> Option<Self> {
        let start = text.trim_start();
        let begins = |tag: &str, mark: &str| {
            text.lines().any(|line| line.strip_prefix(tag).is_some_and(|rest| rest.trim_start().starts_with(mark)))
        };
        if start.starts_with(['[', '{']) {
            Some(Self::CslJson)
        } else if begins("TY", "-") {
            Some(Self::Ris)
        } else if begins("PMID", "-") {
            Some(Self::Pubmed)
        } else if start.starts_with('@') || text.lines().any(|line| line.starts_with('@')) {
            Some(Self::Bibtex)
        } else {
            None
        }
    }
}

/// So many are read between two looks at whether to go on.
const STEP: usize = 500;

/// What was read from a file.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ReadReferences {
    /// The format it is in.
    pub format: ReferenceFormat,
    /// Its references in their order.
    pub references: Vec<Reference>,
}

/// Reads and checks a file of references; the format is recognised by the content. `step` is told how many are read; when it answers no,
/// nothing is answered.
///
/// # Errors
/// Every fault, with its place as `entries[3].year`, the first [`Faults::TOLD`] where there are more; one for a file that is in no known
/// format.
pub fn read_references(bytes: &[u8], step: &dyn Fn(usize) -> bool) -> Result<Option<ReadReferences>, Faults> {
    let text = as_text(bytes).map_err(Faults::of)?;
    let Some(format) = ReferenceFormat::of(text) else {
        let message = "This is not one of the formats that can be read: RIS, BibTeX, CSL-JSON, PubMed.";
        let remedy = "Export the references again in one of them.";
        let start: String = text.trim().chars().take(60).collect();
        return Err(Faults::of(FieldError::new("file", FieldErrorCode::Unknown, start, message, remedy)));
    };
    let entries = match format {
        ReferenceFormat::Ris => Ok(tagged::read_ris(text)),
        ReferenceFormat::Pubmed => Ok(tagged::read_pubmed(text)),
        ReferenceFormat::Bibtex => bibtex::read(text),
        ReferenceFormat::CslJson => csl_json::read(text),
    }
    .map_err(Faults::of)?;
    let mut errors = Faults::default();
    let mut references = Vec::new();
    for (index, entry) in entries.enumerate() {
        if index % STEP == 0 && !step(index) {
            return Ok(None);
        }
        match entry.map_err(|error| vec![error]).and_then(|input| Reference::check(&input)) {
            Ok(reference) => references.push(reference),
            Err(found) => errors.add(&format!("entries[{index}]."), found),
        }
        if errors.is_full() {
            break;
        }
    }
    if references.is_empty() && errors.is_empty() {
        let remedy = "Choose a file that holds some.";
        errors.push(FieldError::new("file", FieldErrorCode::Missing, "", "This file holds no reference.", remedy));
    }
    if errors.is_empty() { Ok(Some(ReadReferences { format, references })) } else { Err(errors) }
}

/// The references as a file in this format.
#[must_use]
pub fn write_references(format: ReferenceFormat, references: &[Reference]) -> String {
    match format {
        ReferenceFormat::Ris => tagged::write_ris(references),
        ReferenceFormat::Pubmed => tagged::write_pubmed(references),
        ReferenceFormat::Bibtex => bibtex::write(references),
        ReferenceFormat::CslJson => csl_json::write(references),
    }
}

/// One entry as it was read, or why it could not be.
type Entry = Result<ReferenceInput, FieldError>;

/// The entries of a file, each read when it is asked for.
type Entries<'a> = Box<dyn Iterator<Item = Entry> + 'a>;

fn as_text(bytes: &[u8]) -> Result<&str, FieldError> {
    let fault =
        |code, value: String, message: String, remedy: &str| FieldError::new("file", code, value, message, remedy);
    let text = std::str::from_utf8(bytes).map_err(|error| {
        let line = 1 + bytes[..error.valid_up_to()].iter().filter(|byte| **byte == b'\n').count();
        let message = format!("Line {line} is not written in UTF-8.");
        fault(FieldErrorCode::Invalid, format!("line {line}"), message, "Export or save the file again as UTF-8.")
    })?;
    let text = text.strip_prefix('\u{feff}').unwrap_or(text);
    if text.contains('\0') {
        let message = "The file contains NUL characters: it is not text, or is text in UTF-16.".to_owned();
        return Err(fault(FieldErrorCode::ForbiddenCharacter, "NUL".to_owned(), message, "Save it again as UTF-8."));
    }
    Ok(text)
}

/// A four-digit year that stands in a date, wherever it stands there.
fn year_in(date: &str) -> Option<f64> {
    let digits = date.split(|c: char| !c.is_ascii_digit()).find(|part| part.len() == 4)?;
    digits.parse().ok()
}
