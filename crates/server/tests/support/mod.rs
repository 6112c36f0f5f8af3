//! A server on a database of its own.
#![allow(dead_code, reason = "each test file uses a part of it")]

mod contract;

use pruvex_server::ServerConfig;
use pruvex_testkit::TestDatabase;
use rocket::http::{ContentType, Header, Status};
use rocket::local::asynchronous::{Client, LocalRequest};
use serde_json::Value;

/// Where requests come from that name a place.
pub const LOCAL: &str = "127.0.0.1:4000";

pub struct Server {
    pub client: Client,
    pub database: TestDatabase,
}

impl Server {
    /// Ready to be asked by an author.
    pub async fn start() -> Self {
        let server = Self::start_signed_out().await;
        server.enter("author").await;
        server
    }

    /// Ready to be asked, by nobody yet.
    pub async fn start_signed_out() -> Self {
        Self::start_with_registry(None).await
    }

    /// As [`Self::start_signed_out`], with this registry of works.
    pub async fn start_with_registry(registry: Option<String>) -> Self {
        let database = TestDatabase::create().await.unwrap();
        let server = Self { client: client(&database.url, true, registry).await, database };
        for _ in 0..200 {
            if server.client.get("/readyz").dispatch().await.status() == Status::Ok {
                return server;
            }
            rocket::tokio::time::sleep(std::time::Duration::from_millis(25)).await;
        }
        panic!("the server never became ready");
    }

    /// On another database URL, ready or not.
    pub async fn start_with(url: &str) -> Self {
        Self { client: client(url, false, None).await, database: TestDatabase::create().await.unwrap() }
    }

    /// Another server on the same database.
    pub async fn another(&self) -> Self {
        Self { client: client(&self.database.url, true, None).await, database: TestDatabase::create().await.unwrap() }
    }

    /// Enters the demonstration in a role; later requests are that person's.
    pub async fn enter(&self, role: &str) {
        let request = self.client.post("/api/v1/session/demo").remote(LOCAL.parse().unwrap());
        let request = request.header(Header::new("Host", LOCAL));
        let (status, session) = self.send_json(request, &serde_json::json!({ "role": role })).await;
        assert_eq!((status, session["account"]["role"].as_str()), (Status::Ok, Some(role)), "{session}");
    }

    /// Changes the database behind the program's back.
    pub async fn sql(&self, statement: &str) {
        use pruvex_store::ConnectionTrait;
        let db = pruvex_store::connect(self.database_url(), pruvex_store::Connections::Reading).await.unwrap();
        db.execute_unprepared(statement).await.unwrap();
    }

    pub fn database_url(&self) -> &str {
        &self.database.url
    }

    pub async fn end(self) {
        self.client.terminate().await;
        self.database.drop().await.unwrap();
    }

    /// Status and JSON of the answer; `null` when it is no JSON. Every answer is compared with what its route promises.
    pub async fn send(&self, request: LocalRequest<'_>) -> (Status, Value) {
        let (method, path) = (request.inner().method(), request.inner().uri().path().to_string());
        let response = request.dispatch().await;
        let status = response.status();
        let media_type = response.content_type().map(|it| it.to_string());
        let text = response.into_string().await.unwrap_or_default();
        let body = serde_json::from_str(&text).ok();
        let answer = contract::Answer { method, path: &path, status: status.code, media_type, body: body.as_ref() };
        contract::check(&answer);
        (status, body.unwrap_or(Value::Null))
    }

    pub async fn send_json(&self, request: LocalRequest<'_>, body: &Value) -> (Status, Value) {
        self.send(request.header(ContentType::JSON).body(body.to_string())).await
    }

    pub async fn get(&self, path: &str) -> (Status, Value) {
        self.send(self.client.get(path.to_owned())).await
    }

    pub async fn post(&self, path: &str, body: &Value) -> (Status, Value) {
        self.send_json(self.client.post(path.to_owned()), body).await
    }

    pub async fn put(&self, path: &str, etag: &str, body: &Value) -> (Status, Value) {
        let request = self.client.put(path.to_owned()).header(Header::new("If-Match", etag.to_owned()));
        self.send_json(request, body).await
    }

    /// Waits until an import has come to its end.
    pub async fn until_ended(&self, mut import: Value) -> Value {
        let path = format!("/api/v1/imports/{}", import["id"].as_str().unwrap());
        while ["waiting", "busy"].contains(&import["state"].as_str().unwrap()) {
            rocket::tokio::time::sleep(std::time::Duration::from_millis(10)).await;
            import = self.get(&path).await.1;
        }
        import
    }

    /// Imports a bundle, and waits until that has ended.
    pub async fn import(&self, query: &str, bundle: &Value) -> Value {
        let (status, begun) = self.post(&format!("/api/v1/bundle-imports?{query}"), bundle).await;
        assert_eq!(status, Status::Accepted, "{begun}");
        self.until_ended(begun).await
    }

    pub async fn delete(&self, path: &str, etag: &str) -> (Status, Value) {
        self.send(self.client.delete(path.to_owned()).header(Header::new("If-Match", etag.to_owned()))).await
    }
}

async fn client(url: &str, demo: bool, registry: Option<String>) -> Client {
    let config = ServerConfig {
        address: [127, 0, 0, 1].into(),
        port: 0,
        database_url: url.to_owned(),
        demo,
        registry,
        secure_cookies: false,
        say: |_| {},
    };
    Client::tracked(pruvex_server::rocket(config).await.unwrap()).await.unwrap()
}
