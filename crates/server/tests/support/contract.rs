//! What the published description promises of an answer, compared with the answer.

use std::collections::HashMap;
use std::sync::{LazyLock, Mutex, PoisonError};

use jsonschema::Validator;
use rocket::http::Method;
use serde_json::Value;

static DOCUMENT: LazyLock<Value> =
    LazyLock::new(|| serde_json::from_str(&pruvex_server::openapi_json().unwrap()).unwrap());
/// By the place of its schema in the document; a schema takes longer to read than an answer.
static VALIDATORS: LazyLock<Mutex<HashMap<String, Validator>>> = LazyLock::new(Mutex::default);

/// An answer to be compared.
pub struct Answer<'a> {
    pub method: Method,
    pub path: &'a str,
    pub status: u16,
    pub media_type: Option<String>,
    pub body: Option<&'a Value>,
}

/// Fails when the answer's status, media type or body is not as the description of its route says.
pub fn check(answer: &Answer<'_>) {
    let Answer { method, path, status, media_type, body } = answer;
    if !path.starts_with("/api/v1/") {
        return;
    }
    let asked = format!("{method} {path} answered {status}");
    let paths = DOCUMENT["paths"].as_object().unwrap();
    let segments: Vec<&str> = path.split('/').collect();
    let method = method.as_str().to_lowercase();
    let mut known: Vec<&String> = paths.keys().filter(|known| fits(known, &segments)).collect();
    known.sort_by_key(|known| known.matches('{').count());
    if known.is_empty() {
        assert_eq!(*status, 404, "{asked}, and no such path is described");
        return;
    }
    let Some((known, operation)) = known.iter().find_map(|it| Some((it, paths[*it].get(&method)?))) else {
        assert_eq!(*status, 405, "{asked}, and no such method is described");
        return;
    };
    let responses = &operation["responses"];
    let response = responses.get(status.to_string()).unwrap_or_else(|| panic!("{asked}: undeclared for {known}"));
    let response = match response["$ref"].as_str() {
        Some(place) => DOCUMENT.pointer(place.trim_start_matches('#')).unwrap(),
        None => response,
    };
    let Some(content) = response.get("content") else {
        assert_eq!(*media_type, None, "{asked} with a body, and none is described");
        return;
    };
    let media_type = media_type.as_deref().unwrap_or_else(|| panic!("{asked} without a media type"));
    let essence = media_type.split(';').next().unwrap_or_default().trim();
    assert!(content.get(essence).is_some(), "{asked} with {essence}, described are {content}");
    if let (Some(body), true) = (body, essence.ends_with("json")) {
        let place = format!("{method} {known} {status} {essence}");
        let mut validators = VALIDATORS.lock().unwrap_or_else(PoisonError::into_inner);
        let validator = validators.entry(place).or_insert_with(|| {
            let mut schema = content[essence]["schema"].clone();
            schema["components"] = DOCUMENT["components"].clone();
            jsonschema::draft202012::new(&schema).unwrap()
        });
        let faults: Vec<String> =
            validator.iter_errors(body).map(|fault| format!("{}: {fault}", fault.instance_path())).collect();
        drop(validators);
        assert!(faults.is_empty(), "{asked} against its schema: {faults:#?}\n{body:#}");
    }
}

fn fits(described: &str, segments: &[&str]) -> bool {
    let described: Vec<&str> = described.split('/').collect();
    described.len() == segments.len()
        && described.iter().zip(segments).all(|(known, given)| known.starts_with('{') || known == given)
}
