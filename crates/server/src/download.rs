//! Answers that a browser saves as a file.

use pruvex_formats::FigureFormat;
use rocket::Responder;
use rocket::http::{ContentType, Header};

use crate::problem::ApiError;

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

/// What a printed figure is written as, by the end of its address.
pub(crate) fn figure_format(format: &str) -> Result<(FigureFormat, ContentType), ApiError> {
    match format {
        "pdf" => Ok((FigureFormat::Pdf, ContentType::PDF)),
        "svg" => Ok((FigureFormat::Svg, ContentType::SVG)),
        "png" => Ok((FigureFormat::Png, ContentType::PNG)),
        _ => Err(ApiError::NoRoute),
    }
}
