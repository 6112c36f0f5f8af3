//! Answers that a browser saves as a file.

use rocket::Responder;
use rocket::http::{ContentType, Header};

/// A file to be saved.
#[derive(Responder)]
pub(crate) struct Download {
    bytes: Vec<u8>,
    kind: ContentType,
    disposition: Header<'static>,
}

impl Download {
    pub fn new(content: impl Into<Vec<u8>>, kind: ContentType, name: &str) -> Self {
        let disposition = Header::new("Content-Disposition", format!("attachment; filename=\"{name}\""));
        Self { bytes: content.into(), kind, disposition }
    }
}
