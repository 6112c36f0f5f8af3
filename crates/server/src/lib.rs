//! Rocket: the JSON API under `/api/v1`, its OpenAPI document, and the embedded front end. Routes decode, call a use case, encode.

mod body;
mod etag;
mod fairings;
mod file;
mod frontend;
mod guards;
mod openapi;
mod params;
mod problem;
mod query;
mod ready;
mod routes;
mod strict;

use std::net::IpAddr;
use std::sync::Arc;

use pruvex_app::{App, AppConfig, AppError};
use rocket::{Build, Rocket};

pub use openapi::openapi_json;

/// How to serve.
#[derive(Debug, Clone)]
pub struct ServerConfig {
    /// Address to bind; loopback unless told otherwise.
    pub address: IpAddr,
    /// Port; 0 takes a free one.
    pub port: u16,
    /// PostgreSQL URL.
    pub database_url: String,
    /// A demonstration: anybody on this machine may enter in any role. Refused on other addresses than loopback.
    pub demo: bool,
    /// Address of the registry that tells which work an identifier stands for.
    pub registry: Option<String>,
    /// Cookies only over TLS: for a server behind a proxy that speaks it.
    pub secure_cookies: bool,
    /// Tells the one who started the server something, such as the link by which the first administrator joins.
    pub say: fn(&str),
}

/// The server, ready to launch. It starts while its database is down, says so on `/readyz`, and recovers by itself.
///
/// # Errors
/// A database URL that is none.
pub async fn rocket(config: ServerConfig) -> Result<Rocket<Build>, AppError> {
    let demo = config.demo && config.address.is_loopback();
    let app = AppConfig { database_url: config.database_url, demo, registry: config.registry };
    let app = Arc::new(App::connect(app).await?);
    let shutdown = rocket::config::Shutdown { grace: 2, mercy: 2, ..Default::default() };
    let settings = rocket::Config {
        address: config.address,
        port: config.port,
        shutdown,
        cli_colors: false,
        ident: rocket::config::Ident::none(),
        ..rocket::Config::default()
    };
    Ok(rocket::custom(settings)
        .manage(app)
        .manage(ready::Settings { secure_cookies: config.secure_cookies, say: config.say })
        .manage(openapi::parameters())
        .attach(fairings::RequestLog)
        .attach(fairings::shield())
        .attach(fairings::SecurityHeaders)
        .attach(fairings::Compression)
        .attach(ready::preparation())
        .mount("/", routes::health::routes())
        .mount("/", openapi::routes())
        .mount(openapi::BASE, routes::api())
        .mount("/", frontend::routes())
        .register("/", problem::catchers()))
}
