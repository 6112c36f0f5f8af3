//! References as they stand in a list of literature, in the usual styles.

use std::sync::OnceLock;

use hayagriva::archive::{ArchivedStyle, locales};
use hayagriva::citationberg::json::Item;
use hayagriva::citationberg::{IndependentStyle, Locale, Style};
use hayagriva::{BibliographyDriver, BibliographyRequest, BufWriteFormat, CitationItem, CitationRequest};
use pruvex_core::evidence::Reference;
use rayon::iter::{IntoParallelRefIterator, ParallelIterator};

use super::csl_json;

/// A style of citing.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, serde::Serialize, serde::Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum CitationStyle {
    /// Of the American Medical Association's manual, 11th edition: for numbered lists.
    #[default]
    Ama,
    /// Of the American Psychological Association's manual, 7th edition: author and year.
    Apa,
}

impl CitationStyle {
    /// All styles.
    pub const ALL: [Self; 2] = [Self::Ama, Self::Apa];

    /// Code in addresses.
    #[must_use]
    pub fn code(self) -> &'static str {
        match self {
            Self::Ama => "ama",
            Self::Apa => "apa",
        }
    }

    fn style(self) -> Option<&'static IndependentStyle> {
        static STYLES: [OnceLock<Option<IndependentStyle>>; 2] = [const { OnceLock::new() }; 2];
        let archived = match self {
            Self::Ama => ArchivedStyle::AmericanMedicalAssociation,
            Self::Apa => ArchivedStyle::AmericanPsychologicalAssociation,
        };
        let independent = || match archived.get() {
            Style::Independent(style) => Some(style),
            Style::Dependent(_) => None,
        };
        STYLES[self as usize].get_or_init(independent).as_ref()
    }
}

fn english() -> &'static [Locale] {
    static LOCALES: OnceLock<Vec<Locale>> = OnceLock::new();
    LOCALES.get_or_init(locales)
}

/// Each reference as its entry in a list of literature, without its number there.
#[must_use]
pub fn cite(style: CitationStyle, references: &[&Reference]) -> Vec<String> {
    let plain = |reference: &Reference| format!("{}. {}", reference.label(), reference.title);
    let Some(style) = style.style() else { return references.iter().map(|reference| plain(reference)).collect() };
    references.par_iter().map(|reference| entry(style, reference).unwrap_or_else(|| plain(reference))).collect()
}

/// One by one: a style may set authors apart that a list holds together, and sort them.
fn entry(style: &IndependentStyle, reference: &Reference) -> Option<String> {
    let mut item = csl_json::item(reference, "1");
    for name in item["author"].as_array_mut().into_iter().flatten().filter(|name| name["family"].is_string()) {
        // An empty particle keeps the processor from taking a family name such as "van der Tosk" apart.
        name["non-dropping-particle"] = "".into();
    }
    let item: Item = serde_json::from_value(item).ok()?;
    let mut driver = BibliographyDriver::new();
    driver.citation(CitationRequest::from_items(vec![CitationItem::with_entry(&item)], style, english()));
    let request = BibliographyRequest { style, locale: None, locale_files: english() };
    let written = driver.finish(request).bibliography?.items.into_iter().next()?;
    let mut text = String::new();
    written.content.write_buf(&mut text, BufWriteFormat::Plain).ok()?;
    Some(text.split_whitespace().collect::<Vec<_>>().join(" "))
}
