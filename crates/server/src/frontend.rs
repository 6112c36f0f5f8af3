//! The built front end, embedded in the binary.

use std::borrow::Cow;
use std::io::Cursor;
use std::path::PathBuf;

use rocket::http::{ContentType, Header, Status};
use rocket::response::{Responder, Response, Result as ResponseResult};
use rocket::{Request, Route, get, routes};
use rust_embed::{EmbeddedFile, RustEmbed};

use crate::fairings::accepts;

#[derive(RustEmbed)]
#[folder = "../../web/dist"]
struct Dist;

/// A file as it is, or the page that routes the rest itself.
struct Page {
    name: String,
}

/// Everything that no other route took. Addresses of the application answer with its page, so that they can be
/// opened, reloaded and sent to a colleague.
#[get("/<path..>", rank = 20)]
fn page(path: PathBuf) -> Option<Page> {
    let name = path.to_str()?.to_owned();
    let is_file = name.starts_with("assets/") || name.rsplit('/').next().is_some_and(|last| last.contains('.'));
    match Dist::get(&name) {
        Some(_) => Some(Page { name }),
        None if is_file || name == "api" || name.starts_with("api/") => None,
        None => Some(Page { name: "index.html".to_owned() }),
    }
}

impl<'r> Responder<'r, 'static> for Page {
    fn respond_to(self, request: &'r Request<'_>) -> ResponseResult<'static> {
        let hex = |file: &EmbeddedFile| file.metadata.sha256_hash()[..8].iter().map(|b| format!("{b:02x}")).collect();
        let plain = Dist::get(&self.name).ok_or(Status::NotFound)?;
        let tag: String = hex(&plain);
        let etag = format!("\"{tag}\"");
        let mut response = Response::build();
        let hashed = self.name.starts_with("assets/");
        let caching = if hashed { "public, max-age=31536000, immutable" } else { "no-cache" };
        response.header(Header::new("Cache-Control", caching)).header(Header::new("ETag", etag.clone()));
        response.header(Header::new("Vary", "Accept-Encoding"));
        if request.headers().get_one("If-None-Match") == Some(etag.as_str()) {
            return response.status(Status::NotModified).ok();
        }
        let extension = self.name.rsplit('.').next().unwrap_or_default();
        response.header(ContentType::from_extension(extension).unwrap_or(ContentType::Binary));
        let packed = [("br", "br"), ("gzip", "gz")]
            .into_iter()
            .filter(|(encoding, _)| accepts(request, encoding))
            .find_map(|(encoding, suffix)| Some((encoding, Dist::get(&format!("{}.{suffix}", self.name))?)));
        let data: Cow<'static, [u8]> = match packed {
            Some((encoding, file)) => {
                response.header(Header::new("Content-Encoding", encoding));
                file.data
            }
            None => plain.data,
        };
        response.sized_body(data.len(), Cursor::new(data)).ok()
    }
}

pub(crate) fn routes() -> Vec<Route> {
    routes![page]
}
