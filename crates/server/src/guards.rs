//! Who asks, and from where: the guards that routes name in their signatures.

use std::net::IpAddr;
use std::ops::Deref;

use pruvex_app::people::{Holder, authorise};
use rocket::Request;
use rocket::http::Method;
use rocket::http::uri::Authority;
use rocket::request::{FromRequest, Outcome};

use crate::problem::{ApiError, refuse};
use crate::ready::Ready;

/// HttpOnly, SameSite=Strict; its value is a secret.
pub(crate) const SESSION_COOKIE: &str = "pruvex_session";

/// A request by somebody who has the right.
#[derive(Debug)]
pub(crate) struct By<R>(R);

impl<R> Deref for By<R> {
    type Target = R;

    fn deref(&self) -> &R {
        &self.0
    }
}

#[rocket::async_trait]
impl<'r, R: Holder + Send> FromRequest<'r> for By<R> {
    type Error = ();

    async fn from_request(request: &'r Request<'_>) -> Outcome<Self, ()> {
        if !same_origin(request) {
            return refuse(request, ApiError::CrossSite);
        }
        let app = match request.guard::<Ready<'_>>().await {
            Outcome::Success(app) => app,
            Outcome::Error(error) => return Outcome::Error(error),
            Outcome::Forward(status) => return Outcome::Forward(status),
        };
        match authorise::<R>(&app, session_secret(request)).await {
            Ok(right) => Outcome::Success(Self(right)),
            Err(error) => refuse(request, error),
        }
    }
}

fn session_secret<'r>(request: &'r Request<'_>) -> Option<&'r str> {
    request.cookies().get(SESSION_COOKIE).map(|cookie| cookie.value())
}

/// The secret of the session that a request belongs to, if it names one.
pub(crate) struct Session<'r>(pub Option<&'r str>);

#[rocket::async_trait]
impl<'r> FromRequest<'r> for Session<'r> {
    type Error = ();

    async fn from_request(request: &'r Request<'_>) -> Outcome<Self, ()> {
        Outcome::Success(Self(session_secret(request)))
    }
}

/// A request that no other site has sent in the user's name: browsers add `Origin` to every request that changes
/// something, and it must be this site. Programs that are no browser send none.
#[derive(Debug)]
pub(crate) struct SameOrigin;

#[rocket::async_trait]
impl<'r> FromRequest<'r> for SameOrigin {
    type Error = ();

    async fn from_request(request: &'r Request<'_>) -> Outcome<Self, ()> {
        if same_origin(request) { Outcome::Success(Self) } else { refuse(request, ApiError::CrossSite) }
    }
}

fn same_origin(request: &Request<'_>) -> bool {
    if matches!(request.method(), Method::Get | Method::Head | Method::Options) {
        return true;
    }
    match (request.headers().get_one("Origin"), request.headers().get_one("Host")) {
        (None, _) => true,
        (Some(origin), Some(host)) => origin.split_once("://").is_some_and(|(_, from)| from.eq_ignore_ascii_case(host)),
        (Some(_), None) => false,
    }
}

/// Where a request came from.
pub(crate) struct Address {
    /// For counting failures.
    pub text: String,
    /// A browser or program on this machine, by a name of this machine. Another name may be that of a foreign page which had it lead here,
    /// and what a proxy hands on may come from anywhere.
    pub is_local: bool,
}

#[rocket::async_trait]
impl<'r> FromRequest<'r> for Address {
    type Error = ();

    async fn from_request(request: &'r Request<'_>) -> Outcome<Self, ()> {
        let from = request.remote().map(|from| from.ip());
        let text = from.map_or_else(|| "unknown".to_owned(), |from| from.to_string());
        let is_local = from.is_some_and(|from| from.is_loopback()) && !is_handed_on(request) && names_loopback(request);
        Outcome::Success(Self { text, is_local })
    }
}

/// A proxy sent it.
fn is_handed_on(request: &Request<'_>) -> bool {
    ["Forwarded", "X-Forwarded-For", "X-Forwarded-Host", "X-Real-IP", "Via"]
        .iter()
        .any(|name| request.headers().contains(*name))
}

/// The name under which the server was asked stands for this machine wherever it is looked up.
fn names_loopback(request: &Request<'_>) -> bool {
    request.headers().get_one("Host").and_then(|host| Authority::parse(host).ok()).is_some_and(|authority| {
        let host = authority.host().trim_start_matches('[').trim_end_matches(']');
        host.eq_ignore_ascii_case("localhost") || host.parse::<IpAddr>().is_ok_and(|address| address.is_loopback())
    })
}

/// Where this server is reached, as the one who asks sees it.
pub(crate) struct Site(pub String);

#[rocket::async_trait]
impl<'r> FromRequest<'r> for Site {
    type Error = ();

    async fn from_request(request: &'r Request<'_>) -> Outcome<Self, ()> {
        let headers = request.headers();
        let host = headers.get_one("Host").unwrap_or("localhost");
        let seen = headers.get_one("Origin").map_or_else(|| format!("http://{host}"), str::to_owned);
        Outcome::Success(Self(seen))
    }
}
