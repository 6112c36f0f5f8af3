//! Use cases: what a person can do with the catalogue, with their rights. No HTTP: the server and the command line call the same ones.
//!
//! A use case takes the [`App`] and the right that it needs as a value (such as [`people::StudyWriter`]), which only an account that has it can
//! give. It owns the transaction, puts the core and the store together, and answers with a view: the shape that the API speaks.

mod app;
mod blocking;
mod demonstration;
mod error;
mod fields;
mod gate;
mod supersede;
mod writers;

pub mod accuracy;
pub mod backup;
pub mod catalogue;
pub mod combine;
pub mod evidence;
pub mod examination;
pub mod exchange;
pub mod history;
pub mod likelihood;
pub mod people;
pub mod plan;
pub mod pooling;
pub mod unsaved;
pub mod vocabulary;

pub use app::{App, AppConfig};
pub use error::{AppError, IN_WORDS, in_words};
pub use pruvex_formats::FigureFormat;

/// A view of a record that is saved at the version at which it was read.
pub trait Versioned {
    /// That version.
    fn version(&self) -> i32;
}

/// A file that a use case writes.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct FileContent {
    /// What is in it.
    pub bytes: Vec<u8>,
    /// What it may be called.
    pub name: String,
    /// Its media type.
    pub media_type: &'static str,
}

impl FileContent {
    fn new(bytes: impl Into<Vec<u8>>, name: impl Into<String>, media_type: &'static str) -> Self {
        Self { bytes: bytes.into(), name: name.into(), media_type }
    }
}

/// The only one of these: the view of a record that was just saved or read.
fn only<T>(views: Vec<T>) -> Result<T, AppError> {
    views.into_iter().next().ok_or_else(|| AppError::internal("a record has no view"))
}

/// Today, for the foot of a page.
fn today() -> String {
    chrono::Utc::now().format("%-d %B %Y").to_string()
}

/// A name that every file system and every header takes; `or` where nothing of it can be kept.
fn file_name(name: &str, or: &str) -> String {
    let plain = |c: char| if c.is_ascii_alphanumeric() { c.to_ascii_lowercase() } else { '-' };
    let words: String = name.chars().map(plain).take(80).collect();
    let words: Vec<&str> = words.split('-').filter(|word| !word.is_empty()).collect();
    if words.is_empty() { or.to_owned() } else { words.join("-") }
}

/// Media types of the files that are written.
mod media {
    pub const CSV: &str = "text/csv; charset=utf-8";
    pub const JSON: &str = "application/json";
    pub const PDF: &str = "application/pdf";
    pub const XLSX: &str = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet";
}
