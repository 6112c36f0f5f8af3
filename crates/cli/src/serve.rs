//! `pruvex serve`.

use std::net::IpAddr;

use pruvex_server::ServerConfig;

use crate::error::CliError;

#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// Address to bind.
    #[arg(long, default_value = "127.0.0.1")]
    address: IpAddr,
    /// Port; 0 takes a free one.
    #[arg(long, default_value_t = 8460)]
    port: u16,
    /// A demonstration: anybody on this machine may enter in any role. Needs a loopback address.
    #[arg(long)]
    demo: bool,
    /// Send the session's cookie over TLS only: for a server behind a proxy that speaks TLS.
    #[arg(long)]
    secure_cookies: bool,
    /// Address of a registry that answers identifiers of published works as CSL-JSON. A demonstration without one starts the
    /// simulated registry that ships with the program.
    #[arg(long, env = "PRUVEX_REGISTRY", value_name = "URL")]
    registry: Option<String>,
    /// PostgreSQL URL.
    #[arg(long, env = "DATABASE_URL", hide_env_values = true)]
    database_url: String,
}

pub fn run(arguments: Arguments) -> Result<(), CliError> {
    crate::log_to_stderr("info,rocket=warn,sqlx=warn,sea_orm_migration=warn");
    let Arguments { address, port, demo, secure_cookies, registry, database_url } = arguments;
    if demo && !address.is_loopback() {
        let why = "--demo lets anybody in who reaches the server, so it needs a loopback address";
        return Err(CliError::Refused(format!("{why}, not {address}")));
    }
    // Each connection is an open file, and the usual limit is a thousand.
    if let Err(cause) = rlimit::increase_nofile_limit(u64::MAX) {
        tracing::warn!(%cause, "no more connections than usual can be open");
    }
    let announce = rocket::fairing::AdHoc::on_liftoff("Address", |rocket| {
        Box::pin(async move {
            let config = rocket.config();
            crate::emit(&format!("listening on http://{}", std::net::SocketAddr::new(config.address, config.port)));
        })
    });
    rocket::execute(async move {
        let registry = if registry.is_none() && demo {
            Some(pruvex_standins::start_registry().await.map_err(CliError::refused)?)
        } else {
            registry
        };
        let config = ServerConfig { address, port, database_url, demo, registry, secure_cookies, say: crate::emit };
        let server = pruvex_server::rocket(config).await?;
        server.attach(announce).launch().await.map(|_| ()).map_err(|error| match error.kind() {
            rocket::error::ErrorKind::Bind(cause) => {
                let advice = "choose another with --port";
                CliError::Refused(format!("port {port} of {address} cannot be bound ({cause}); {advice}"))
            }
            _ => CliError::refused(error),
        })
    })
}
