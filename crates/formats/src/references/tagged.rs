//! The two formats that put a tag before each line: RIS and the text that PubMed saves.

use std::fmt::Write;

use biblib::{Citation, CitationParser, PubMedParser, RisParser};
use pruvex_core::evidence::{Author, Reference, ReferenceInput, ReferenceKind};
use pruvex_core::{FieldError, FieldErrorCode};

use super::{Entries, Entry};

/// The types of both formats. The parser turns RIS's short types into words; PubMed's are words.
const TYPES: [(ReferenceKind, &str, &[&str]); 8] = [
    (
        ReferenceKind::JournalArticle,
        "JOUR",
        &["journal article", "jour", "ejour", "mgzn", "journal", "electronic article"],
    ),
    (ReferenceKind::Book, "BOOK", &["book", "ebook", "edbook", "electronic book", "edited book"]),
    (
        ReferenceKind::Chapter,
        "CHAP",
        &["book chapter", "chap", "echap", "chapter", "book section", "electronic chapter"],
    ),
    (ReferenceKind::Thesis, "THES", &["thesis", "thesis/dissertation", "academic dissertation"]),
    (ReferenceKind::Report, "RPRT", &["report", "rprt", "technical report", "gov", "govdoc"]),
    (
        ReferenceKind::ConferencePaper,
        "CPAPER",
        &["conference paper", "cpaper", "conf", "conference proceeding", "congress"],
    ),
    (ReferenceKind::WebPage, "ELEC", &["web page", "elec", "electronic citation", "webpage"]),
    (ReferenceKind::Other, "GEN", &["generic", "gen", "other"]),
];

fn kind(types: &[String]) -> ReferenceKind {
    let known = |name: &String| {
        let name = name.to_lowercase();
        TYPES.iter().find(|(_, _, names)| names.contains(&name.as_str())).map(|(kind, ..)| *kind)
    };
    // PubMed lists what sort of article it is too; only journals stand in it.
    types.iter().find_map(known).unwrap_or(if types.is_empty() {
        ReferenceKind::Other
    } else {
        ReferenceKind::JournalArticle
    })
}

pub(super) fn read_ris(text: &str) -> Entries<'_> {
    let starts = |line: &str| line.strip_prefix("TY").is_some_and(|rest| rest.trim_start().starts_with('-'));
    let entry = |record: Record| {
        let doi = value_of(&record, "DO");
        // What is no DOI the parser would leave out; it is for somebody to look at.
        one(&RisParser::new(), &whole_names(record)).map(|input| ReferenceInput {
            doi: if input.doi.is_empty() { doi.unwrap_or_default() } else { input.doi },
            ..input
        })
    };
    Box::new(records(text, starts).map(entry))
}

/// The parser takes the last word of a name without a comma for a given name: a comma after it keeps an institution whole.
fn whole_names(mut record: Record) -> Record {
    let author = |line: &str| tag_of(line).is_some_and(|(tag, _)| matches!(tag, "AU" | "A1")) && !line.contains(',');
    let lines = record.text.lines().map(|line| if author(line) { format!("{line},\n") } else { format!("{line}\n") });
    record.text = lines.collect();
    record
}

fn tag_of(line: &str) -> Option<(&str, &str)> {
    let (tag, value) = line.split_once('-')?;
    Some((tag.trim_end(), value.trim())).filter(|(tag, _)| tag.len() == 2)
}

fn value_of(record: &Record, wanted: &str) -> Option<String> {
    let values = record.text.lines().filter_map(tag_of).filter(|(tag, _)| *tag == wanted);
    values.map(|(_, value)| value.to_owned()).find(|value| !value.is_empty())
}

pub(super) fn read_pubmed(text: &str) -> Entries<'_> {
    let starts = |line: &str| line.strip_prefix("PMID").is_some_and(|rest| rest.trim_start().starts_with('-'));
    Box::new(records(text, starts).map(|record| one(&PubMedParser::new(), &record)))
}

/// A record and the line it begins at: each is parsed by itself, so that every broken one is named.
struct Record {
    line: usize,
    text: String,
}

fn records(text: &str, starts: fn(&str) -> bool) -> impl Iterator<Item = Record> {
    let mut lines = text.lines().enumerate().skip_while(move |(_, line)| !starts(line)).peekable();
    std::iter::from_fn(move || {
        let (index, first) = lines.next()?;
        let mut record = Record { line: index + 1, text: format!("{first}\n") };
        // Blank lines within a record would end it for one of the parsers.
        while let Some((_, line)) = lines.next_if(|(_, line)| !starts(line)) {
            if !line.trim().is_empty() {
                record.text.push_str(line);
                record.text.push('\n');
            }
        }
        Some(record)
    })
}

fn one(parser: &impl CitationParser, record: &Record) -> Entry {
    let unreadable = |why: String| {
        let message = format!("The entry that begins in line {} cannot be read: {why}.", record.line);
        FieldError::new(
            "entry",
            FieldErrorCode::Invalid,
            record.text.trim(),
            message,
            "Compare it with its neighbours.",
        )
    };
    match parser.parse(&record.text) {
        Ok(found) => match found.into_iter().next() {
            Some(citation) => Ok(input(citation)),
            None => Err(unreadable("it holds nothing but its first line".to_owned())),
        },
        Err(error) => Err(unreadable(error.error.to_string())),
    }
}

fn input(citation: Citation) -> ReferenceInput {
    let given = |author: &biblib::Author| {
        [author.given_name.as_deref(), author.middle_name.as_deref()]
            .into_iter()
            .flatten()
            .collect::<Vec<_>>()
            .join(" ")
    };
    let authors = citation.authors.iter().map(|author| Author { family: author.name.clone(), given: given(author) });
    let text = |value: Option<String>| value.unwrap_or_default();
    ReferenceInput {
        kind: kind(&citation.citation_type),
        title: citation.title.trim_end_matches('.').to_owned(),
        authors: authors.collect(),
        year: citation.date.map(|date| f64::from(date.year)),
        container: citation.journal.or(citation.journal_abbr).unwrap_or_default(),
        volume: text(citation.volume),
        issue: text(citation.issue),
        pages: text(citation.pages),
        publisher: text(citation.publisher),
        doi: text(citation.doi),
        pmid: text(citation.pmid),
        url: citation.urls.into_iter().find(|url| url.starts_with("http")).unwrap_or_default(),
    }
}

fn named(kind: ReferenceKind) -> (&'static str, &'static str) {
    let found = TYPES.iter().find(|(of, ..)| *of == kind);
    found.map_or(("GEN", "generic"), |(_, short, names)| (short, names[0]))
}

fn full_name(Author { family, given }: &Author) -> String {
    if given.is_empty() { family.clone() } else { format!("{family}, {given}") }
}

/// Tag after tag; what is empty is left out. Writing to a string does not fail.
fn lines(width: usize, fields: &[(&str, &str)], text: &mut String) {
    for (tag, value) in fields.iter().filter(|(_, value)| !value.is_empty()) {
        let _ = writeln!(text, "{tag:<width$}- {value}");
    }
}

pub(super) fn write_ris(references: &[Reference]) -> String {
    let mut text = String::new();
    for reference in references {
        let year = reference.year.map(|year| year.to_string()).unwrap_or_default();
        let (first, last) = reference.pages.split_once(['-', '–']).unwrap_or((&reference.pages, ""));
        lines(4, &[("TY", named(reference.kind).0), ("TI", &reference.title)], &mut text);
        for author in &reference.authors {
            lines(4, &[("AU", &full_name(author))], &mut text);
        }
        let container = if reference.kind == ReferenceKind::JournalArticle { "JO" } else { "T2" };
        let fields = [
            ("PY", year.as_str()),
            (container, &reference.container),
            ("VL", &reference.volume),
            ("IS", &reference.issue),
            ("SP", first.trim()),
            ("EP", last.trim()),
            ("PB", &reference.publisher),
            ("DO", &reference.doi),
            ("C2", &reference.pmid),
            ("UR", &reference.url),
        ];
        lines(4, &fields, &mut text);
        text.push_str("ER  - \n\n");
    }
    text
}

pub(super) fn write_pubmed(references: &[Reference]) -> String {
    let mut text = String::new();
    for reference in references {
        let year = reference.year.map(|year| year.to_string()).unwrap_or_default();
        // The first tag marks where a record begins, for those without a number too.
        let _ = writeln!(text, "PMID- {}", reference.pmid);
        lines(4, &[("TI", &reference.title)], &mut text);
        for author in &reference.authors {
            let tag = if author.given.is_empty() { "CN" } else { "FAU" };
            lines(4, &[(tag, &full_name(author))], &mut text);
        }
        let doi = if reference.doi.is_empty() { String::new() } else { format!("{} [doi]", reference.doi) };
        let fields = [
            ("PT", named(reference.kind).1),
            ("DP", &year),
            ("JT", &reference.container),
            ("VI", &reference.volume),
            ("IP", &reference.issue),
            ("PG", &reference.pages),
            ("PB", &reference.publisher),
            ("AID", &doi),
        ];
        lines(4, &fields, &mut text);
        text.push('\n');
    }
    text
}
