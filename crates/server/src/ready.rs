//! The application behind the routes, and its preparation.

use std::ops::Deref;
use std::sync::Arc;

use pruvex_app::{App, AppError};
use rocket::Request;
use rocket::fairing::AdHoc;
use rocket::request::{FromRequest, Outcome};

use crate::problem::refuse;
use crate::query::odd_parameter;

/// What the server keeps beside the application.
pub(crate) struct Settings {
    /// See [`crate::ServerConfig`].
    pub secure_cookies: bool,
    pub say: fn(&str),
}

/// The application: refused with 503 while it cannot carry anything out, and to questions with parameters that nobody reads.
pub(crate) struct Ready<'r>(&'r App);

impl Deref for Ready<'_> {
    type Target = App;

    fn deref(&self) -> &App {
        self.0
    }
}

#[rocket::async_trait]
impl<'r> FromRequest<'r> for Ready<'r> {
    type Error = ();

    async fn from_request(request: &'r Request<'_>) -> Outcome<Self, ()> {
        if let Some(error) = odd_parameter(request) {
            return refuse(request, error);
        }
        match request.rocket().state::<Arc<App>>() {
            Some(app) if app.is_ready() => Outcome::Success(Self(app)),
            _ => refuse(request, AppError::DatabaseUnavailable),
        }
    }
}

/// Brings the application up in the background, and tells whoever started the server how the first administrator joins.
pub(crate) fn preparation() -> AdHoc {
    AdHoc::on_liftoff("Preparation", |rocket| {
        Box::pin(async move {
            let (Some(app), Some(settings)) = (rocket.state::<Arc<App>>(), rocket.state::<Settings>()) else { return };
            let (app, say) = (Arc::clone(app), settings.say);
            let config = rocket.config();
            let site = format!("http://{}", std::net::SocketAddr::new(config.address, config.port));
            rocket::tokio::spawn(async move {
                if let Some(path) = app.prepare().await {
                    say(&format!("first administrator: {site}{path}"));
                }
                app.read_ahead().await;
            });
        })
    })
}
