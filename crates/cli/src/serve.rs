//! `pruvex serve`.

use std::net::IpAddr;

use pruvex_server::ServerConfig;

#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// Address to bind. There are no accounts yet: leave it on loopback unless the network is yours alone.
    #[arg(long, default_value = "127.0.0.1")]
    address: IpAddr,
    /// Port; 0 takes a free one.
    #[arg(long, default_value_t = 8460)]
    port: u16,
    /// PostgreSQL URL.
    #[arg(long, env = "DATABASE_URL", hide_env_values = true)]
    database_url: String,
}

pub fn run(arguments: Arguments) -> Result<(), String> {
    crate::log_to_stderr();
    let Arguments { address, port, database_url } = arguments;
    let announce = rocket::fairing::AdHoc::on_liftoff("Address", |rocket| {
        Box::pin(async move {
            let config = rocket.config();
            crate::emit(&format!("listening on http://{}", std::net::SocketAddr::new(config.address, config.port)));
        })
    });
    rocket::execute(async move {
        let server =
            pruvex_server::rocket(ServerConfig { address, port, database_url }).await.map_err(|e| e.to_string())?;
        server.attach(announce).launch().await.map(|_| ()).map_err(|error| match error.kind() {
            rocket::error::ErrorKind::Bind(cause) => {
                format!("port {port} of {address} cannot be bound ({cause}); choose another with --port")
            }
            _ => error.to_string(),
        })
    })
}
