//! CSL-JSON: what citation processors read, and what registries of identifiers answer.

use pruvex_core::evidence::{Author, Reference, ReferenceInput, ReferenceKind};
use pruvex_core::{FieldError, FieldErrorCode};
use serde_json::{Map, Value, json};

use super::{Entries, year_in};

const TYPES: [(ReferenceKind, &str); 8] = [
    (ReferenceKind::JournalArticle, "article-journal"),
    (ReferenceKind::Book, "book"),
    (ReferenceKind::Chapter, "chapter"),
    (ReferenceKind::Thesis, "thesis"),
    (ReferenceKind::Report, "report"),
    (ReferenceKind::ConferencePaper, "paper-conference"),
    (ReferenceKind::WebPage, "webpage"),
    (ReferenceKind::Other, "document"),
];

pub(super) fn read(text: &str) -> Result<Entries<'static>, FieldError> {
    let value: Value = serde_json::from_str(text).map_err(|error| {
        let remedy = "Export it again, or correct that place in a text editor.";
        FieldError::new("file", FieldErrorCode::Invalid, "", format!("The file is not valid JSON: {error}."), remedy)
    })?;
    Ok(match value {
        Value::Array(items) => Box::new(items.into_iter().map(|item| read_csl_item(&item))),
        one => Box::new(std::iter::once(read_csl_item(&one))),
    })
}

/// One item of CSL-JSON.
///
/// # Errors
/// It is no item.
pub fn read_csl_item(item: &Value) -> Result<ReferenceInput, FieldError> {
    let Some(item) = item.as_object().filter(|item| item.contains_key("title") || item.contains_key("type")) else {
        let (message, remedy) = ("This is not an item of CSL-JSON.", "An item is an object with a type and a title.");
        return Err(FieldError::new("entry", FieldErrorCode::Invalid, item, message, remedy));
    };
    let kind = item.get("type").and_then(Value::as_str).unwrap_or_default();
    // Registries call their journal articles so.
    let kind = if kind == "journal-article" { "article-journal" } else { kind };
    Ok(ReferenceInput {
        kind: TYPES.iter().find(|(_, name)| *name == kind).map_or(ReferenceKind::Other, |(kind, _)| *kind),
        title: text(item, "title"),
        authors: item.get("author").and_then(Value::as_array).into_iter().flatten().map(author).collect(),
        year: item.get("issued").and_then(year),
        container: text(item, "container-title"),
        volume: text(item, "volume"),
        issue: text(item, "issue"),
        pages: [text(item, "page"), text(item, "number")].into_iter().find(|it| !it.is_empty()).unwrap_or_default(),
        publisher: text(item, "publisher"),
        doi: text(item, "DOI"),
        pmid: text(item, "PMID"),
        url: text(item, "URL"),
    })
}

/// Texts may be numbers, and registries put some into a list.
fn text(item: &Map<String, Value>, name: &str) -> String {
    match item.get(name) {
        Some(Value::String(text)) => text.clone(),
        Some(Value::Number(number)) => number.to_string(),
        Some(Value::Array(list)) => list.first().and_then(Value::as_str).unwrap_or_default().to_owned(),
        _ => String::new(),
    }
}

fn author(name: &Value) -> Author {
    let part = |part: &str| name[part].as_str().unwrap_or_default();
    let family = [part("non-dropping-particle"), part("family"), part("literal")];
    Author {
        family: family.into_iter().filter(|part| !part.is_empty()).collect::<Vec<_>>().join(" "),
        given: part("given").to_owned(),
    }
}

fn year(date: &Value) -> Option<f64> {
    let first = &date["date-parts"][0][0];
    let stated = first.as_f64().or_else(|| first.as_str()?.parse().ok());
    stated.or_else(|| [&date["raw"], &date["literal"]].into_iter().find_map(|it| year_in(it.as_str()?)))
}

/// A reference as an item; `id` tells the items of a list apart.
pub(super) fn item(reference: &Reference, id: &str) -> Value {
    let kind = TYPES.iter().find(|(kind, _)| *kind == reference.kind).map_or("document", |(_, name)| *name);
    let author = |Author { family, given }: &Author| {
        if given.is_empty() { json!({ "literal": family }) } else { json!({ "family": family, "given": given }) }
    };
    let mut item = Map::new();
    item.insert("id".to_owned(), json!(id));
    item.insert("type".to_owned(), json!(kind));
    item.insert("title".to_owned(), json!(reference.title));
    if !reference.authors.is_empty() {
        item.insert("author".to_owned(), reference.authors.iter().map(author).collect());
    }
    if let Some(year) = reference.year {
        item.insert("issued".to_owned(), json!({ "date-parts": [[year]] }));
    }
    let texts = [
        ("container-title", &reference.container),
        ("volume", &reference.volume),
        ("issue", &reference.issue),
        ("page", &reference.pages),
        ("publisher", &reference.publisher),
        ("DOI", &reference.doi),
        ("PMID", &reference.pmid),
        ("URL", &reference.url),
    ];
    item.extend(
        texts.into_iter().filter(|(_, text)| !text.is_empty()).map(|(name, text)| (name.to_owned(), json!(text))),
    );
    Value::Object(item)
}

pub(super) fn write(references: &[Reference]) -> String {
    let items: Vec<Value> =
        references.iter().enumerate().map(|(index, reference)| item(reference, &(index + 1).to_string())).collect();
    // What was just built of texts and numbers can be written.
    serde_json::to_string_pretty(&items).unwrap_or_default() + "\n"
}
