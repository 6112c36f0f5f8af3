//! BibTeX and its successor biblatex.

use std::collections::HashMap;

use biblatex::{Bibliography, Chunk, ChunksExt, Entry as BibEntry, EntryType, Person, Spanned};
use pruvex_core::evidence::{Author, Reference, ReferenceInput, ReferenceKind};
use pruvex_core::{FieldError, FieldErrorCode};

use super::{Entry, year_in};

pub(super) fn read(text: &str) -> Result<Vec<Entry>, FieldError> {
    let bibliography = Bibliography::parse(text).map_err(|error| {
        let line = 1 + text[..error.span.start.min(text.len())].matches('\n').count();
        let message = format!("Line {line} cannot be read as BibTeX: {}.", error.kind);
        FieldError::new(
            "file",
            FieldErrorCode::Invalid,
            format!("line {line}"),
            message,
            "Mend that place in a text editor.",
        )
    })?;
    Ok(bibliography.iter().map(|entry| Ok(input(entry))).collect())
}

fn input(entry: &BibEntry) -> ReferenceInput {
    let text = |names: &[&str]| {
        let found = names.iter().find_map(|name| entry.get(name).map(ChunksExt::format_verbatim));
        found.unwrap_or_default()
    };
    let kind = match entry.entry_type {
        EntryType::Article | EntryType::Periodical | EntryType::SuppPeriodical => ReferenceKind::JournalArticle,
        EntryType::Book | EntryType::MvBook | EntryType::Collection | EntryType::Booklet | EntryType::Manual => {
            ReferenceKind::Book
        }
        EntryType::InBook | EntryType::InCollection | EntryType::BookInBook | EntryType::SuppBook => {
            ReferenceKind::Chapter
        }
        EntryType::Thesis | EntryType::MastersThesis | EntryType::PhdThesis => ReferenceKind::Thesis,
        EntryType::Report | EntryType::TechReport => ReferenceKind::Report,
        EntryType::InProceedings | EntryType::Proceedings => ReferenceKind::ConferencePaper,
        EntryType::Online => ReferenceKind::WebPage,
        _ => ReferenceKind::Other,
    };
    let authors =
        entry.author().unwrap_or_default().into_iter().map(|Person { name, given_name, prefix, suffix, .. }| Author {
            family: [prefix, name, suffix].into_iter().filter(|part| !part.is_empty()).collect::<Vec<_>>().join(" "),
            given: given_name,
        });
    ReferenceInput {
        kind,
        title: text(&["title"]),
        authors: authors.collect(),
        year: year_in(&text(&["date", "year"])),
        container: text(&["journaltitle", "journal", "booktitle"]),
        volume: text(&["volume"]),
        issue: text(&["number", "issue"]),
        pages: text(&["pages"]).replace("--", "-"),
        publisher: text(&["publisher", "school", "institution", "organization"]),
        doi: text(&["doi"]),
        pmid: text(&["pmid"]),
        url: text(&["url"]),
    }
}

pub(super) fn write(references: &[Reference]) -> String {
    let mut taken: HashMap<String, u32> = HashMap::new();
    references.iter().map(|reference| entry(reference, &mut taken).to_biblatex_string() + "\n").collect()
}

fn entry(reference: &Reference, taken: &mut HashMap<String, u32>) -> BibEntry {
    let (kind, container, publisher) = match reference.kind {
        ReferenceKind::JournalArticle => (EntryType::Article, "journaltitle", "publisher"),
        ReferenceKind::Book => (EntryType::Book, "booktitle", "publisher"),
        ReferenceKind::Chapter => (EntryType::InCollection, "booktitle", "publisher"),
        ReferenceKind::Thesis => (EntryType::Thesis, "booktitle", "institution"),
        ReferenceKind::Report => (EntryType::Report, "booktitle", "institution"),
        ReferenceKind::ConferencePaper => (EntryType::InProceedings, "booktitle", "publisher"),
        ReferenceKind::WebPage => (EntryType::Online, "booktitle", "organization"),
        ReferenceKind::Other => (EntryType::Misc, "booktitle", "publisher"),
    };
    let mut entry = BibEntry::new(key(reference, taken), kind);
    let mut set = |name: &str, text: &str| {
        if !text.is_empty() {
            entry.set(name, vec![Spanned::detached(Chunk::Normal(text.to_owned()))]);
        }
    };
    set("title", &reference.title);
    set("year", &reference.year.map(|year| year.to_string()).unwrap_or_default());
    set(container, &reference.container);
    set("volume", &reference.volume);
    set("number", &reference.issue);
    set("pages", &reference.pages);
    set(publisher, &reference.publisher);
    set("doi", &reference.doi);
    set("pmid", &reference.pmid);
    set("url", &reference.url);
    if !reference.authors.is_empty() {
        entry.set("author", names(&reference.authors));
    }
    entry
}

/// Names joined by `and`; those of institutions stand in braces, which keep them whole.
fn names(authors: &[Author]) -> Vec<Spanned<Chunk>> {
    let mut chunks = Vec::new();
    for (index, Author { family, given }) in authors.iter().enumerate() {
        let joint = if index == 0 { "" } else { " and " };
        if given.is_empty() {
            chunks.push(Chunk::Normal(joint.to_owned()));
            chunks.push(Chunk::Verbatim(family.clone()));
        } else {
            chunks.push(Chunk::Normal(format!("{joint}{family}, {given}")));
        }
    }
    chunks.into_iter().map(Spanned::detached).collect()
}

/// First author and year, and a letter where that is taken.
fn key(reference: &Reference, taken: &mut HashMap<String, u32>) -> String {
    let family = reference.authors.first().map_or("anonymous", |author| author.family.as_str());
    let family: String = family.chars().filter(char::is_ascii_alphanumeric).collect::<String>().to_lowercase();
    let family = if family.is_empty() { "work".to_owned() } else { family };
    let base = format!("{family}{}", reference.year.map(|year| year.to_string()).unwrap_or_default());
    let count = taken.entry(base.clone()).and_modify(|count| *count += 1).or_insert(0);
    if *count == 0 { base } else { format!("{base}-{count}") }
}
