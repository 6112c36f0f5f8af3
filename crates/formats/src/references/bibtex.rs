//! BibTeX and its successor biblatex.

use std::collections::HashMap;

use biblatex::{
    Bibliography, Chunk, ChunksExt, Entry as BibEntry, EntryType, Field, ParseError, Person, RawBibliography, RawChunk,
    Spanned,
};
use pruvex_core::evidence::{Author, Reference, ReferenceInput, ReferenceKind};
use pruvex_core::{FieldError, FieldErrorCode};

use super::{Entries, year_in};

/// How far texts may grow when the short names in them are written out, beside what the file itself holds.
const MAX_GROWTH: usize = 4 * 1024 * 1024;
/// Short names stand for texts with short names in them, but not deeper than this; round a circle there is no end.
const MAX_DEPTH: usize = 32;

/// More links of one entry are not followed.
const MAX_LINKS: usize = 8;

/// Links from one entry to another, and what they are called here: the parser follows those that it knows, round a circle for ever, and
/// along entries that name two others each in as many steps as there are ways.
const LINKS: [(&str, &str); 2] = [("crossref", "linked-crossref"), ("xdata", "linked-xdata")];

pub(super) fn read(text: &str) -> Result<Entries<'static>, FieldError> {
    let unread = |error: &ParseError| {
        let line = 1 + text[..error.span.start.min(text.len())].matches('\n').count();
        let message = format!("Line {line} cannot be read as BibTeX: {}.", error.kind);
        let remedy = "Correct that place in a text editor.";
        FieldError::new("file", FieldErrorCode::Invalid, format!("line {line}"), message, remedy)
    };
    if too_deep(text) {
        let message = format!("Braces stand more than {MAX_BRACES} deep in each other.");
        return Err(FieldError::new(
            "file",
            FieldErrorCode::TooLong,
            "{",
            message,
            "Look for a brace that is not closed.",
        ));
    }
    let mut raw = RawBibliography::parse(text).map_err(|error| unread(&error))?;
    bounded(&raw, text.len())?;
    for field in raw.entries.iter_mut().flat_map(|entry| &mut entry.v.fields) {
        if let Some((_, name)) = LINKS.iter().find(|(link, _)| field.key.v.eq_ignore_ascii_case(link)) {
            field.key.v = name;
        }
    }
    let bibliography = Bibliography::from_raw(raw).map_err(|error| unread(&error))?;
    let read = move |place| bibliography.iter().nth(place).map(|entry| Ok(input(entry, &bibliography)));
    Ok(Box::new((0..).map_while(read)))
}

/// Deeper ones are no text; the parser takes time with the square of their depth.
const MAX_BRACES: usize = 100;

fn too_deep(text: &str) -> bool {
    let mut depth = 0_usize;
    text.bytes().any(|byte| {
        match byte {
            b'{' => depth += 1,
            b'}' => depth = depth.saturating_sub(1),
            _ => {}
        }
        depth > MAX_BRACES
    })
}

/// Whether short names are written out to texts of a sensible length.
fn bounded(raw: &RawBibliography<'_>, length: usize) -> Result<(), FieldError> {
    let names: HashMap<&str, &Field<'_>> = raw.abbreviations.iter().map(|pair| (pair.key.v, &pair.value.v)).collect();
    let mut known = HashMap::new();
    let mut left = MAX_GROWTH + 4 * length;
    for field in raw.entries.iter().flat_map(|entry| &entry.v.fields) {
        let grown = written_out(&field.value.v, &names, &mut known, 0);
        left = grown.and_then(|grown| left.checked_sub(grown)).ok_or_else(|| {
            let message =
                "The short names (@string) in this file stand for texts that grow beyond measure, or for themselves.";
            FieldError::new(
                "file",
                FieldErrorCode::TooLong,
                field.key.v,
                message,
                "Write the texts out in the entries.",
            )
        })?;
    }
    Ok(())
}

/// Length of a text once its short names are written out; `None` when they lead too deep.
fn written_out<'a>(
    text: &'a Field<'a>,
    names: &HashMap<&'a str, &'a Field<'a>>,
    known: &mut HashMap<&'a str, usize>,
    depth: usize,
) -> Option<usize> {
    if depth > MAX_DEPTH {
        return None;
    }
    text.iter().try_fold(0_usize, |length, chunk| {
        let more = match chunk.v {
            RawChunk::Normal(text) => text.len(),
            RawChunk::Abbreviation(name) => match (known.get(name), names.get(name)) {
                (Some(length), _) => *length,
                (None, Some(text)) => {
                    let length = written_out(text, names, known, depth + 1)?;
                    known.insert(name, length);
                    length
                }
                // A month, or a fault that the parser tells.
                (None, None) => name.len(),
            },
        };
        // Each piece is a step, even of an empty text.
        length.checked_add(more)?.checked_add(1)
    })
}

fn input(entry: &BibEntry, all: &Bibliography) -> ReferenceInput {
    let linked = |link: &str| {
        let keys = entry.get(link).map(ChunksExt::format_verbatim).unwrap_or_default();
        keys.split(',').take(MAX_LINKS).filter_map(|key| all.get(key.trim())).collect::<Vec<_>>()
    };
    let [[_, crossref], [_, xdata]] = LINKS.map(|(name, link)| [name, link]);
    let (parents, shared) = (linked(crossref), linked(xdata));
    let said = |entry: &BibEntry, names: &[&str]| {
        names.iter().find_map(|name| entry.get(name).map(ChunksExt::format_verbatim)).filter(|text| !text.is_empty())
    };
    // What an entry does not say, those that it is linked to say for it; its own title it says itself.
    let own = |names: &[&str]| [entry].into_iter().chain(shared.iter().copied()).find_map(|entry| said(entry, names));
    let text = |names: &[&str]| {
        own(names).or_else(|| parents.iter().find_map(|parent| said(parent, names))).unwrap_or_default()
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
    let named =
        [entry].into_iter().chain(shared.iter().copied()).find_map(|it| it.author().ok().filter(|it| !it.is_empty()));
    let authors = named.unwrap_or_default().into_iter().map(|Person { name, given_name, prefix, suffix, .. }| Author {
        family: [prefix, name, suffix].into_iter().filter(|part| !part.is_empty()).collect::<Vec<_>>().join(" "),
        given: given_name,
    });
    ReferenceInput {
        kind,
        title: own(&["title"]).unwrap_or_default(),
        authors: authors.collect(),
        year: year_in(&text(&["date", "year"])),
        container: own(&["journaltitle", "journal", "booktitle"])
            .or_else(|| parents.iter().find_map(|parent| said(parent, &["title"])))
            .unwrap_or_default(),
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
