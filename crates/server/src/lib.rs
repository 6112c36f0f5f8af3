//! Rocket: the JSON API under `/api/v1`, its OpenAPI document, and the embedded front end.

mod body;
mod download;
mod etag;
mod fairings;
mod frontend;
mod imports;
mod latest;
mod mail;
mod off;
mod openapi;
mod params;
mod people;
mod problem;
mod registry;
mod routes;
mod shelf;
mod state;

use std::net::IpAddr;

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
pub async fn rocket(config: ServerConfig) -> Result<Rocket<Build>, pruvex_store::StoreError> {
    let state = state::AppState::connect(&config).await?;
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
        .manage(state)
        .attach(fairings::RequestLog)
        .attach(fairings::SecurityHeaders)
        .attach(fairings::Compression)
        .attach(state::preparation())
        .mount("/", routes::health::routes())
        .mount("/api/v1", routes::api())
        .mount("/", frontend::routes())
        .register("/", problem::catchers()))
}
