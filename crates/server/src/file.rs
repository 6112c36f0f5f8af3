//! Answers that are files, and files that are sent.

use std::io::Cursor;
use std::time::Duration;

use pruvex_app::{AppError, FileContent};
use pruvex_core::{FieldError, FieldErrorCode};
use rocket::Request;
use rocket::data::{Data, FromData, Outcome};
use rocket::http::Header;
use rocket::response::{Responder, Response, Result as ResponseResult};

use crate::body::read_whole;
use crate::problem::keep;

/// A file to be saved, or with `inline` to be looked at.
pub(crate) struct Download {
    file: FileContent,
    disposition: &'static str,
}

impl Download {
    pub fn attachment(file: FileContent) -> Self {
        Self { file, disposition: "attachment" }
    }

    pub fn inline(file: FileContent) -> Self {
        Self { file, disposition: "inline" }
    }
}

impl<'r> Responder<'r, 'static> for Download {
    fn respond_to(self, _: &'r Request<'_>) -> ResponseResult<'static> {
        let FileContent { bytes, name, media_type } = self.file;
        Response::build()
            .header(Header::new("Content-Type", media_type))
            .header(Header::new("Content-Disposition", format!("{}; filename=\"{name}\"", self.disposition)))
            .sized_body(bytes.len(), Cursor::new(bytes))
            .ok()
    }
}

/// A bundle of one module by hand is far smaller; whole large catalogues go by the command line.
const MAX_UPLOAD_BYTES: u64 = 20 * 1024 * 1024;
/// The largest one takes as long over a line of a megabit a second.
const UPLOAD_PATIENCE: Duration = Duration::from_secs(180);

/// A file that was sent, whole.
pub(crate) struct Upload(pub Vec<u8>);

#[rocket::async_trait]
impl<'r> FromData<'r> for Upload {
    type Error = ();

    async fn from_data(request: &'r Request<'_>, data: Data<'r>) -> Outcome<'r, Self> {
        let fail = |error| Outcome::Error((keep(request, error), ()));
        match read_whole(data, MAX_UPLOAD_BYTES, UPLOAD_PATIENCE).await {
            Ok(bytes) if bytes.is_empty() => {
                let (message, remedy) = ("The file is empty.", "Choose the file again, or another one.");
                fail(
                    AppError::Fields(vec![FieldError::new("file", FieldErrorCode::Invalid, "", message, remedy)])
                        .into(),
                )
            }
            Ok(bytes) => Outcome::Success(Self(bytes)),
            Err(error) => fail(error),
        }
    }
}
