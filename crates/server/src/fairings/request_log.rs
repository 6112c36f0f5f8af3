//! One structured line a request, with an id that the answer carries too.

use std::time::Instant;

use rocket::fairing::{Fairing, Info, Kind};
use rocket::http::Header;
use rocket::{Data, Request, Response};
use tracing::info;
use uuid::Uuid;

pub(crate) struct RequestLog;

struct Started {
    id: String,
    at: Instant,
}

fn started<'r>(request: &'r Request<'_>) -> &'r Started {
    request.local_cache(|| Started { id: Uuid::now_v7().to_string(), at: Instant::now() })
}

/// The path without anything that may be a secret. No route has one in its path; somebody may put it there all the same.
fn redacted(path: &str) -> String {
    let part = |part: &str| {
        let key = |sign: char| sign.is_ascii_alphanumeric() || "-_+=".contains(sign);
        let secret = part.len() >= SECRET_SIGNS && part.chars().all(key) && Uuid::parse_str(part).is_err();
        if secret { "…".to_owned() } else { part.to_owned() }
    };
    path.split('/').map(part).collect::<Vec<_>>().join("/")
}

/// A part of a path so long, of the signs of a secret, is taken for one: longer than any name of a route or of a shipped file.
const SECRET_SIGNS: usize = 40;

/// The id of this request.
pub(crate) fn request_id(request: &Request<'_>) -> String {
    started(request).id.clone()
}

#[rocket::async_trait]
impl Fairing for RequestLog {
    fn info(&self) -> Info {
        Info { name: "Request log", kind: Kind::Request | Kind::Response }
    }

    async fn on_request(&self, request: &mut Request<'_>, _: &mut Data<'_>) {
        started(request);
    }

    async fn on_response<'r>(&self, request: &'r Request<'_>, response: &mut Response<'r>) {
        let Started { id, at } = started(request);
        response.set_header(Header::new("X-Request-Id", id.clone()));
        info!(
            request_id = %id,
            method = %request.method(),
            path = %redacted(request.uri().path().as_str()),
            status = response.status().code,
            milliseconds = at.elapsed().as_secs_f64() * 1e3,
            "request"
        );
    }
}

#[cfg(test)]
mod tests {
    use super::redacted;

    #[test]
    fn a_secret_in_a_path_is_not_logged() {
        let secret = "Zm91ciB3b3JkcyBpbiBhIHJvdyBhbmQgc29tZSBtb3JlIQ";
        assert_eq!(redacted(&format!("/join/{secret}")), "/join/…");
        for path in ["/api/v1/tests/01a225c3-9037-7327-9681-7cfaa5328069", "/assets/ResultDialog-CKq1b2x3.js", "/"] {
            assert_eq!(redacted(path), path);
        }
    }
}
