//! Compresses JSON answers; the front end's files are compressed when they are built.

use std::io::{Cursor, Write};

use flate2::Compression as Level;
use flate2::write::GzEncoder;
use rocket::fairing::{Fairing, Info, Kind};
use rocket::http::Header;
use rocket::{Request, Response};

pub(crate) struct Compression;

/// Below this an answer fits one packet anyway.
const WORTH_IT: usize = 1_400;

/// Whether the client accepts this encoding.
pub(crate) fn accepts(request: &Request<'_>, encoding: &str) -> bool {
    let given = request.headers().get("Accept-Encoding").flat_map(|line| line.split(','));
    given.map(str::trim).any(|one| {
        let (name, quality) = one.split_once(";q=").unwrap_or((one, "1"));
        name.trim().eq_ignore_ascii_case(encoding) && quality.trim().parse::<f32>().is_ok_and(|q| q > 0.0)
    })
}

#[rocket::async_trait]
impl Fairing for Compression {
    fn info(&self) -> Info {
        Info { name: "Compression of JSON", kind: Kind::Response }
    }

    async fn on_response<'r>(&self, request: &'r Request<'_>, response: &mut Response<'r>) {
        let json =
            response.content_type().is_some_and(|given| given.is_json() || given.sub().as_str().ends_with("json"));
        if !json || response.headers().contains("Content-Encoding") {
            return;
        }
        response.set_header(Header::new("Vary", "Accept-Encoding"));
        if !accepts(request, "gzip") || response.body().preset_size().is_some_and(|size| size < WORTH_IT) {
            return;
        }
        let Ok(body) = response.body_mut().to_bytes().await else { return };
        let mut encoder = GzEncoder::new(Vec::with_capacity(body.len() / 4), Level::fast());
        match encoder.write_all(&body).and_then(|()| encoder.finish()) {
            Ok(packed) => {
                response.set_header(Header::new("Content-Encoding", "gzip"));
                response.set_sized_body(packed.len(), Cursor::new(packed));
            }
            Err(_) => response.set_sized_body(body.len(), Cursor::new(body)),
        }
    }
}
