//! Headers that confine what a page may do.

use rocket::fairing::{Fairing, Info, Kind};
use rocket::http::Header;
use rocket::shield::{Feature, Frame, NoSniff, Permission, Referrer, Shield};
use rocket::{Request, Response};

pub(crate) struct SecurityHeaders;

/// Scripts only from our own files. Styles may be inline: the component library sets its theme in a style element
/// and geometry in style attributes.
const CONTENT_SECURITY_POLICY: &str = "default-src 'self'; script-src 'self'; style-src 'self' 'unsafe-inline'; \
    img-src 'self' data:; font-src 'self'; connect-src 'self'; object-src 'none'; base-uri 'none'; \
    form-action 'self'; frame-ancestors 'none'";

/// What Rocket's own shield sends: no guessing of types, no frames, no address of this page for others, no devices.
pub(crate) fn shield() -> Shield {
    let devices = Permission::blocked(Feature::Camera)
        .block(Feature::Geolocation)
        .block(Feature::Microphone)
        .block(Feature::Payment)
        .block(Feature::Usb);
    Shield::new().enable(NoSniff::Enable).enable(Frame::Deny).enable(Referrer::NoReferrer).enable(devices)
}

/// What it does not know.
const HEADERS: [(&str, &str); 2] =
    [("Content-Security-Policy", CONTENT_SECURITY_POLICY), ("Cross-Origin-Opener-Policy", "same-origin")];

#[rocket::async_trait]
impl Fairing for SecurityHeaders {
    fn info(&self) -> Info {
        Info { name: "Security headers", kind: Kind::Response }
    }

    async fn on_response<'r>(&self, request: &'r Request<'_>, response: &mut Response<'r>) {
        for (name, value) in HEADERS {
            response.set_header(Header::new(name, value));
        }
        if request.uri().path().starts_with("/api/") {
            response.set_header(Header::new("Cache-Control", "no-store"));
        }
    }
}
