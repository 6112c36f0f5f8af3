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
            path = %request.uri().path(),
            status = response.status().code,
            milliseconds = at.elapsed().as_secs_f64() * 1e3,
            "request"
        );
    }
}
