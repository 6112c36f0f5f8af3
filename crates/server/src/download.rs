//! Answers that a browser saves as a file.

use rocket::Responder;
use rocket::http::{ContentType, Header};

/// A file to be saved.
#[derive(Responder)]
pub(crate) struct Download {
    text: String,
    kind: ContentType,
    disposition: Header<'static>,
}

impl Download {
    pub fn new(text: String, kind: ContentType, name: &str) -> Self {
        let disposition = Header::new("Content-Disposition", format!("attachment; filename=\"{name}\""));
        Self { text, kind, disposition }
    }
}
