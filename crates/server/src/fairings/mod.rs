//! What happens to every request and answer.

mod compression;
mod request_log;
mod security_headers;

pub(crate) use compression::{Compression, accepts};
pub(crate) use request_log::{RequestLog, request_id};
pub(crate) use security_headers::{SecurityHeaders, shield};
