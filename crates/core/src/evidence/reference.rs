//! A published work, as a bibliography names it.

use serde::{Deserialize, Serialize};

use crate::field::{Checker, Part, parts};
use crate::{FieldError, FieldErrorCode};

/// What kind of work it is.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum ReferenceKind {
    /// In a journal.
    #[default]
    JournalArticle,
    /// A whole book.
    Book,
    /// A part of a book.
    Chapter,
    /// A thesis.
    Thesis,
    /// A report of an institution.
    Report,
    /// In the proceedings of a conference.
    ConferencePaper,
    /// A page on the web.
    WebPage,
    /// Anything else.
    Other,
}

impl ReferenceKind {
    /// All kinds, the most frequent first.
    pub const ALL: [Self; 8] = [
        Self::JournalArticle,
        Self::Book,
        Self::Chapter,
        Self::Thesis,
        Self::Report,
        Self::ConferencePaper,
        Self::WebPage,
        Self::Other,
    ];
}

/// Somebody who wrote it. An institution has a family name only.
#[derive(Debug, Clone, Default, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Author {
    /// Family name, or the whole name of an institution.
    pub family: String,
    /// Given names or initials.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub given: String,
}

impl Part for Author {
    fn checked(&self, c: &mut Checker, at: &str) -> Self {
        let remedy = "Write the family name here; the name of an institution too.";
        Self {
            family: one_line(&c.required(&format!("{at}.family"), &self.family, 200, remedy)),
            given: one_line(&c.text(&format!("{at}.given"), &self.given, 200)),
        }
    }

    fn is_blank(&self) -> bool {
        self.family.trim().is_empty() && self.given.trim().is_empty()
    }
}

/// A reference as a person or a file wrote it.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct ReferenceInput {
    /// What kind of work it is.
    pub kind: ReferenceKind,
    /// Title.
    pub title: String,
    /// Who wrote it, in their order.
    pub authors: Vec<Author>,
    /// Year in which it was published.
    pub year: Option<f64>,
    /// Journal, book or proceedings in which it stands.
    pub container: String,
    /// Volume.
    pub volume: String,
    /// Issue.
    pub issue: String,
    /// Pages or article number.
    pub pages: String,
    /// Publisher, university or institution.
    pub publisher: String,
    /// Digital object identifier, with or without an address around it.
    pub doi: String,
    /// Number in PubMed.
    pub pmid: String,
    /// Address on the web.
    pub url: String,
}

/// A checked reference. Empty texts were not given.
#[derive(Debug, Clone, PartialEq, Eq, Hash, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Reference {
    /// What kind of work it is.
    pub kind: ReferenceKind,
    /// Title.
    pub title: String,
    /// Who wrote it, in their order.
    pub authors: Vec<Author>,
    /// Year in which it was published.
    pub year: Option<u16>,
    /// Journal, book or proceedings in which it stands.
    pub container: String,
    /// Volume.
    pub volume: String,
    /// Issue.
    pub issue: String,
    /// Pages or article number.
    pub pages: String,
    /// Publisher, university or institution.
    pub publisher: String,
    /// Digital object identifier in lower case, without an address around it.
    pub doi: String,
    /// Number in PubMed.
    pub pmid: String,
    /// Address on the web.
    pub url: String,
}

/// Printing with movable type began earlier, but nobody cites it here; a larger year is a typing error.
const YEARS: std::ops::RangeInclusive<f64> = 1500.0..=2100.0;

impl Reference {
    /// Checks a reference by itself; whether it is there already is the store's to say.
    ///
    /// # Errors
    /// Every fault found.
    pub fn check(input: &ReferenceInput) -> Result<Self, Vec<FieldError>> {
        let mut checker = Checker::default();
        let c = &mut checker;
        let mut line = |field: &str, value: &str, max: usize| one_line(&c.text(field, value, max));
        let container = line("container", &input.container, 500);
        let volume = line("volume", &input.volume, 50);
        let issue = line("issue", &input.issue, 50);
        // Whether a printer or a typist made the dash says nothing.
        let pages = line("pages", &input.pages, 50).replace(['–', '—'], "-");
        let publisher = line("publisher", &input.publisher, 500);
        let (doi, pmid) = (line("doi", &input.doi, 300), line("pmid", &input.pmid, 50));
        let url = line("url", &input.url, 2_000);
        let title = one_line(&c.required("title", &input.title, 1_000, "Give the title as printed."));
        let authors = parts(c, "authors", &input.authors, 300);
        let year = input.year.and_then(|year| checked_year(c, year));
        let doi = if doi.is_empty() { doi } else { checked_doi(c, &doi) };
        let pmid = if pmid.is_empty() { pmid } else { checked_pmid(c, &pmid) };
        if !url.is_empty() && !["http://", "https://"].iter().any(|start| url.starts_with(start)) {
            c.invalid("url", &url, "This is not a web address.", "Begin it with https:// or leave the field empty.");
        }
        let kind = input.kind;
        checker.finish(Some(Self {
            kind,
            title,
            authors,
            year,
            container,
            volume,
            issue,
            pages,
            publisher,
            doi,
            pmid,
            url,
        }))
    }

    /// A made-up work: the registrant 10.5555 is set aside for examples.
    #[must_use]
    pub fn is_example(&self) -> bool {
        self.doi.starts_with("10.5555/")
    }

    /// Short name for lists and figures: first authors and year, as in `Marwood and Quell 2019`; the title where nobody is named.
    #[must_use]
    pub fn label(&self) -> String {
        let by = match self.authors.as_slice() {
            [] => self.title.chars().take(40).collect(),
            [one] => one.family.clone(),
            [one, two] => format!("{} and {}", one.family, two.family),
            [first, ..] => format!("{} et al.", first.family),
        };
        self.year.map_or_else(|| by.clone(), |year| format!("{by} {year}"))
    }
}

/// Something that stands for one work all over the world.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Identifier {
    /// Digital object identifier, lower case.
    Doi(String),
    /// Number in PubMed.
    Pmid(String),
}

/// Reads an identifier, with or without an address or a label around it.
///
/// # Errors
/// It is neither a DOI nor a number of PubMed.
pub fn parse_identifier(text: &str) -> Result<Identifier, FieldError> {
    let text = text.trim();
    bare_doi(text).map(Identifier::Doi).or_else(|| bare_pmid(text).map(Identifier::Pmid)).ok_or_else(|| {
        FieldError::new(
            "identifier",
            if text.is_empty() { FieldErrorCode::Missing } else { FieldErrorCode::Invalid },
            text,
            "This is neither a DOI nor a PubMed number.",
            "A DOI begins with 10. and has a slash; a PubMed number has up to eight digits.",
        )
    })
}

fn one_line(text: &str) -> String {
    text.split_whitespace().collect::<Vec<_>>().join(" ")
}

#[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss, reason = "whole and within the range of years")]
fn checked_year(c: &mut Checker, year: f64) -> Option<u16> {
    if year.fract() == 0.0 && YEARS.contains(&year) {
        return Some(year as u16);
    }
    let remedy = "Write four digits between 1500 and 2100, or leave the field empty.";
    c.invalid("year", year, "This is not a year in which a work can have appeared.", remedy);
    None
}

/// DOI without its address, in lower case, since DOIs do not tell cases apart (DOI Handbook, section 2.4).
fn bare_doi(text: &str) -> Option<String> {
    let lower = text.trim().to_lowercase();
    let starts =
        ["https://doi.org/", "http://doi.org/", "https://dx.doi.org/", "http://dx.doi.org/", "doi.org/", "doi:"];
    let bare = starts.iter().find_map(|start| lower.strip_prefix(start)).unwrap_or(&lower).trim();
    let (prefix, suffix) = bare.split_once('/')?;
    let registrant = prefix.strip_prefix("10.")?;
    let plain = !suffix.is_empty() && !bare.contains(char::is_whitespace);
    let digits = registrant.len() >= 4 && registrant.bytes().all(|byte| byte.is_ascii_digit() || byte == b'.');
    (plain && digits).then(|| bare.to_owned())
}

fn checked_doi(c: &mut Checker, text: &str) -> String {
    bare_doi(text).unwrap_or_else(|| {
        let remedy = "A DOI begins with 10. and has a slash, such as 10.5555/1234.";
        c.invalid("doi", text, "This is not a DOI.", remedy);
        String::new()
    })
}

fn bare_pmid(text: &str) -> Option<String> {
    let lower = text.trim().to_lowercase();
    let bare = lower.strip_prefix("pmid").map_or(lower.as_str(), |rest| rest.trim_start_matches([':', ' ']));
    let digits = (1..=8).contains(&bare.len()) && bare.bytes().all(|byte| byte.is_ascii_digit());
    let bare = bare.trim_start_matches('0');
    (digits && !bare.is_empty()).then(|| bare.to_owned())
}

fn checked_pmid(c: &mut Checker, text: &str) -> String {
    bare_pmid(text).unwrap_or_else(|| {
        c.invalid("pmid", text, "This is not a PubMed number.", "It has up to eight digits and nothing else.");
        String::new()
    })
}
