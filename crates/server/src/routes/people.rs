//! Signing in and out, joining by invitation, and the keeping of accounts.

use chrono::{DateTime, Utc};
use pruvex_core::people::{AccountInput, NewAccount, Password, Right, Role};
use pruvex_core::{FieldError, FieldErrorCode};
use pruvex_store::people::{self as store, Account, Invitation};
use pruvex_store::{StoreError, TransactionTrait};
use rocket::http::{Cookie, CookieJar, SameSite, Status};
use rocket::request::{FromRequest, Outcome};
use rocket::serde::json::Json;
use rocket::serde::{Deserialize, Serialize};
use rocket::{Request, State, delete, get, post, put};
use utoipa::ToSchema;
use uuid::Uuid;

use crate::body::JsonBody;
use crate::etag::{IfMatch, Tagged};
use crate::mail::Mail;
use crate::params::{RecordId, text_field};
use crate::people::{Administrator, Origin, Reader, SESSION_COOKIE, Secret, hash_password, verify_password};
use crate::problem::{ApiError, Problem};
use crate::state::{AppState, Db};

/// Failed attempts from one address before it must wait: at one login, and at any.
const MAX_FAILURES: [u64; 2] = [5, 30];

/// An account as others see it.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct AccountView {
    id: Uuid,
    version: i32,
    /// What is typed to sign in.
    login: String,
    name: String,
    role: Role,
    rights: Vec<Right>,
    /// When access was ended, if it was.
    disabled_at: Option<DateTime<Utc>>,
}

impl From<Account> for AccountView {
    fn from(account: Account) -> Self {
        let Account { id, version, login, name, role, disabled_at } = account;
        Self { id, version, login, name, role, rights: role.rights(), disabled_at }
    }
}

/// Who is signed in, and what the sign-in page offers.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct SessionView {
    /// `null` when nobody is.
    account: Option<AccountView>,
    /// This is a demonstration: anybody on this machine may enter in any role.
    demo: bool,
}

/// A name and password to sign in with.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(crate = "rocket::serde", deny_unknown_fields)]
pub(crate) struct SignInInput {
    login: String,
    password: String,
}

/// A role to enter the demonstration in.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(crate = "rocket::serde", deny_unknown_fields)]
pub(crate) struct DemoInput {
    role: Role,
}

/// A change of one's own password.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(crate = "rocket::serde", deny_unknown_fields)]
pub(crate) struct PasswordInput {
    current: String,
    new: String,
}

/// Role and access of an account.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(crate = "rocket::serde", deny_unknown_fields)]
pub(crate) struct AccountChange {
    role: Role,
    disabled: bool,
}

/// Whom to invite.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(crate = "rocket::serde", deny_unknown_fields)]
pub(crate) struct InvitationInput {
    role: Role,
    /// For whom, in your own words.
    #[serde(default)]
    note: String,
    /// Where the link is to be mailed to; empty when you pass it on yourself.
    #[serde(default)]
    mail_to: String,
}

/// An open invitation. The link is shown once, to the one who made it.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct InvitationView {
    id: Uuid,
    role: Role,
    note: String,
    expires_at: DateTime<Utc>,
    /// Path of the page on which it is accepted; `null` in lists, since the secret is not kept.
    path: Option<String>,
}

impl InvitationView {
    fn of(invitation: Invitation, secret: Option<&Secret>) -> Self {
        let Invitation { id, role, note, expires_at } = invitation;
        Self { id, role, note, expires_at, path: secret.map(join_path) }
    }
}

/// The page on which an invitation is accepted. The secret stands in the fragment, which browsers send to nobody.
pub(crate) fn join_path(secret: &Secret) -> String {
    format!("/join#{}", secret.text())
}

/// Where a request came from, for counting failures.
pub(crate) struct Address(String);

#[rocket::async_trait]
impl<'r> FromRequest<'r> for Address {
    type Error = ();

    async fn from_request(request: &'r Request<'_>) -> Outcome<Self, ()> {
        Outcome::Success(Self(request.remote().map_or_else(|| "unknown".to_owned(), |from| from.ip().to_string())))
    }
}

async fn begin(db: &Db<'_>, state: &AppState, jar: &CookieJar<'_>, account: Account) -> Result<SessionView, ApiError> {
    let secret = Secret::random();
    store::create_session(db.0, secret.hash(), account.id).await?;
    let cookie = Cookie::build((SESSION_COOKIE, secret.text()))
        .http_only(true)
        .same_site(SameSite::Strict)
        .secure(state.secure_cookies)
        .path("/")
        .max_age(rocket::time::Duration::days(30));
    jar.add(cookie);
    Ok(SessionView { account: Some(account.into()), demo: state.demo })
}

/// Who is signed in.
#[utoipa::path(context_path = "/api/v1", tag = "people", responses((status = 200, body = SessionView)))]
#[get("/session")]
pub(crate) async fn get_session(
    jar: &CookieJar<'_>,
    state: &State<AppState>,
    db: Db<'_>,
) -> Result<Json<SessionView>, ApiError> {
    let secret = jar.get(SESSION_COOKIE).and_then(|cookie| Secret::parse(cookie.value()));
    let account = match secret {
        Some(secret) => store::find_session(db.0, secret.hash()).await?,
        None => None,
    };
    Ok(Json(SessionView { account: account.map(AccountView::from), demo: state.demo }))
}

/// Signs in.
#[utoipa::path(context_path = "/api/v1", tag = "people", request_body = SignInInput,
    responses((status = 200, body = SessionView), (status = 401, body = Problem), (status = 429, body = Problem)))]
#[post("/session", data = "<input>")]
pub(crate) async fn sign_in(
    _origin: Origin,
    address: Address,
    input: JsonBody<SignInInput>,
    jar: &CookieJar<'_>,
    state: &State<AppState>,
    db: Db<'_>,
) -> Result<Json<SessionView>, ApiError> {
    let SignInInput { login, password } = input.0;
    // Longer than any login or password: hashing it would only waste time.
    if login.len() > 400 || password.len() > 2_000 || login.contains('\0') {
        return Err(ApiError::SignInFailed);
    }
    let failures = store::count_failures(db.0, &login, &address.0).await?;
    if failures.iter().zip(MAX_FAILURES).any(|(count, max)| *count >= max) {
        return Err(ApiError::TooManyAttempts);
    }
    let (account, hash) = store::find_login(db.0, &login).await?.unzip();
    let right = verify_password(password, hash.flatten()).await?;
    match account.filter(|_| right) {
        Some(account) => {
            store::forget_failures(db.0, &login, &address.0).await?;
            Ok(Json(begin(&db, state, jar, account).await?))
        }
        None => {
            store::note_failure(db.0, &login, &address.0).await?;
            Err(ApiError::SignInFailed)
        }
    }
}

/// Enters the demonstration in a role; only there, and only from the machine that runs it.
#[utoipa::path(context_path = "/api/v1", tag = "people", request_body = DemoInput,
    responses((status = 200, body = SessionView), (status = 404, body = Problem)))]
#[post("/session/demo", data = "<input>")]
pub(crate) async fn enter_demo(
    _origin: Origin,
    request_from: RemoteIsLocal,
    input: JsonBody<DemoInput>,
    jar: &CookieJar<'_>,
    state: &State<AppState>,
    db: Db<'_>,
) -> Result<Json<SessionView>, ApiError> {
    if !state.demo || !request_from.0 {
        return Err(ApiError::NoRoute);
    }
    let role = input.0.role;
    let login = format!("sample-{}", role.code().replace('_', "-"));
    let account = match store::find_login(db.0, &login).await? {
        Some((account, _)) => account,
        None => {
            let name = format!("Sample {}", role.code().replace('_', " "));
            match store::create_account(db.0, &login, &name, role, None).await {
                // Somebody else entered in this role at the same moment.
                Err(StoreError::Fields(_)) => {
                    store::find_login(db.0, &login).await?.map(|(account, _)| account).ok_or(ApiError::Internal)?
                }
                made => made?,
            }
        }
    };
    Ok(Json(begin(&db, state, jar, account).await?))
}

/// Whether a request comes from this machine.
pub(crate) struct RemoteIsLocal(bool);

#[rocket::async_trait]
impl<'r> FromRequest<'r> for RemoteIsLocal {
    type Error = ();

    async fn from_request(request: &'r Request<'_>) -> Outcome<Self, ()> {
        Outcome::Success(Self(request.remote().is_some_and(|from| from.ip().is_loopback())))
    }
}

/// Signs out.
#[utoipa::path(context_path = "/api/v1", tag = "people", responses((status = 204)))]
#[delete("/session")]
pub(crate) async fn sign_out(_origin: Origin, jar: &CookieJar<'_>, db: Db<'_>) -> Result<Status, ApiError> {
    if let Some(secret) = jar.get(SESSION_COOKIE).and_then(|cookie| Secret::parse(cookie.value())) {
        store::end_session(db.0, secret.hash()).await?;
    }
    jar.remove(Cookie::build(SESSION_COOKIE).path("/"));
    Ok(Status::NoContent)
}

/// Changes one's own password and ends all one's other sessions.
#[utoipa::path(context_path = "/api/v1", tag = "people", request_body = PasswordInput,
    responses((status = 204), (status = 401, body = Problem), (status = 422, body = Problem)))]
#[put("/session/password", data = "<input>")]
pub(crate) async fn change_password(
    reader: Reader,
    address: Address,
    input: JsonBody<PasswordInput>,
    jar: &CookieJar<'_>,
    db: Db<'_>,
) -> Result<Status, ApiError> {
    let account = reader.0;
    let secret =
        jar.get(SESSION_COOKIE).and_then(|cookie| Secret::parse(cookie.value())).ok_or(ApiError::NotSignedIn)?;
    let new = Password::check(&input.0.new, &account.login)
        .map_err(|error| ApiError::Fields(vec![pruvex_core::FieldError { field: "new".to_owned(), ..error }]))?;
    if store::count_failures(db.0, &account.login, &address.0).await?[0] >= MAX_FAILURES[0] {
        return Err(ApiError::TooManyAttempts);
    }
    let hash = store::find_login(db.0, &account.login).await?.and_then(|(_, hash)| hash);
    if !verify_password(input.0.current, hash).await? {
        store::note_failure(db.0, &account.login, &address.0).await?;
        return Err(ApiError::SignInFailed);
    }
    let hash = hash_password(new).await?;
    let transaction = db.0.begin().await.map_err(StoreError::from)?;
    store::set_password(&transaction, account.id, hash, secret.hash()).await?;
    transaction.commit().await.map_err(StoreError::from)?;
    Ok(Status::NoContent)
}

/// What an invitation offers.
#[utoipa::path(context_path = "/api/v1", tag = "people", params(("secret" = String, Path)),
    responses((status = 200, body = InvitationView), (status = 410, body = Problem)))]
#[get("/invitations/<secret>")]
pub(crate) async fn get_invitation(secret: &str, db: Db<'_>) -> Result<Json<InvitationView>, ApiError> {
    let secret = Secret::parse(secret).ok_or(ApiError::InvitationGone)?;
    let invitation = store::find_invitation(db.0, secret.hash()).await?.ok_or(ApiError::InvitationGone)?;
    Ok(Json(InvitationView::of(invitation, None)))
}

/// Accepts an invitation: makes the account and signs it in.
#[utoipa::path(context_path = "/api/v1", tag = "people", params(("secret" = String, Path)), request_body = AccountInput,
    responses((status = 200, body = SessionView), (status = 410, body = Problem), (status = 422, body = Problem)))]
#[post("/invitations/<secret>/accept", data = "<input>")]
pub(crate) async fn accept_invitation(
    secret: &str,
    _origin: Origin,
    input: JsonBody<AccountInput>,
    jar: &CookieJar<'_>,
    state: &State<AppState>,
    db: Db<'_>,
) -> Result<Json<SessionView>, ApiError> {
    let secret = Secret::parse(secret).ok_or(ApiError::InvitationGone)?;
    // Hashing costs: only for those who hold an invitation.
    store::find_invitation(db.0, secret.hash()).await?.ok_or(ApiError::InvitationGone)?;
    let new = NewAccount::check(&input.0).map_err(ApiError::Fields)?;
    let hash = hash_password(new.password).await?;
    let transaction = db.0.begin().await.map_err(StoreError::from)?;
    let invitation = store::find_invitation(&transaction, secret.hash()).await?.ok_or(ApiError::InvitationGone)?;
    if !store::use_invitation(&transaction, invitation.id).await? {
        return Err(ApiError::InvitationGone);
    }
    let account = store::create_account(&transaction, &new.login, &new.name, invitation.role, Some(hash)).await?;
    transaction.commit().await.map_err(StoreError::from)?;
    Ok(Json(begin(&db, state, jar, account).await?))
}

/// Everybody's accounts.
#[utoipa::path(context_path = "/api/v1", tag = "people",
    responses((status = 200, body = Vec<AccountView>), (status = 403, body = Problem)))]
#[get("/accounts")]
pub(crate) async fn list_accounts(_by: Administrator, db: Db<'_>) -> Result<Json<Vec<AccountView>>, ApiError> {
    Ok(Json(store::list_accounts(db.0).await?.into_iter().map(AccountView::from).collect()))
}

/// Changes an account's role, or ends or gives back its access. What it wrote stays.
#[utoipa::path(context_path = "/api/v1", tag = "people", request_body = AccountChange,
    params(("id" = Uuid, Path), ("If-Match" = String, Header, description = "ETag that was read")),
    responses((status = 200, body = AccountView), (status = 403, body = Problem), (status = 404, body = Problem),
        (status = 412, body = Problem), (status = 422, body = Problem)))]
#[put("/accounts/<id>", data = "<input>")]
pub(crate) async fn update_account(
    _by: Administrator,
    id: Result<RecordId, ApiError>,
    version: IfMatch,
    input: JsonBody<AccountChange>,
    db: Db<'_>,
) -> Result<Tagged<AccountView>, ApiError> {
    let AccountChange { role, disabled } = input.0;
    let transaction = db.0.begin().await.map_err(StoreError::from)?;
    let account = store::update_account(&transaction, id?.0, version.0, role, disabled).await?;
    transaction.commit().await.map_err(StoreError::from)?;
    Ok(Tagged::ok(account.version, account.into()))
}

/// Invitations that can still be used.
#[utoipa::path(context_path = "/api/v1", tag = "people",
    responses((status = 200, body = Vec<InvitationView>), (status = 403, body = Problem)))]
#[get("/invitations")]
pub(crate) async fn list_invitations(_by: Administrator, db: Db<'_>) -> Result<Json<Vec<InvitationView>>, ApiError> {
    let open = store::list_invitations(db.0).await?;
    Ok(Json(open.into_iter().map(|invitation| InvitationView::of(invitation, None)).collect()))
}

/// Invites somebody: answers the link, which is shown this once.
#[utoipa::path(context_path = "/api/v1", tag = "people", request_body = InvitationInput,
    responses((status = 200, body = InvitationView), (status = 403, body = Problem), (status = 422, body = Problem)))]
#[post("/invitations", data = "<input>")]
pub(crate) async fn create_invitation(
    by: Administrator,
    input: JsonBody<InvitationInput>,
    site: Site,
    state: &State<AppState>,
    db: Db<'_>,
) -> Result<Json<InvitationView>, ApiError> {
    let note = text_field("note", &input.0.note)?;
    let to = text_field("mail_to", &input.0.mail_to)?;
    let plausible = to.split_once('@').is_some_and(|(who, place)| !who.is_empty() && place.contains('.'));
    if !to.is_empty() && (!plausible || to.contains(char::is_whitespace)) {
        let (message, remedy) = ("This is no mail address.", "Write it as name@example.org, or leave it empty.");
        let error = FieldError::new("mail_to", FieldErrorCode::Invalid, &to, message, remedy);
        return Err(ApiError::Fields(vec![error]));
    }
    let secret = Secret::random();
    let invitation = store::create_invitation(db.0, secret.hash(), input.0.role, &note, Some(by.0.id)).await?;
    if !to.is_empty() {
        let link = format!("{}{}", site.0, join_path(&secret));
        let until = invitation.expires_at.format("%-d %B %Y");
        let text = format!(
            "{} invites you to join Pruvex as {}.\n\nOpen this link once, until {until}:\n{link}\n\nIf you did not expect this, ignore it.",
            by.0.name,
            invitation.role.code().replace('_', " "),
        );
        state.outbox.send(&to, "You are invited to Pruvex", text);
    }
    Ok(Json(InvitationView::of(invitation, Some(&secret))))
}

/// Where this server is reached, as the one who asks sees it.
pub(crate) struct Site(String);

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

/// What would have been mailed since the server started; nothing is sent.
#[utoipa::path(context_path = "/api/v1", tag = "people",
    responses((status = 200, body = Vec<Mail>), (status = 403, body = Problem)))]
#[get("/mail")]
pub(crate) async fn list_mail(_by: Administrator, state: &State<AppState>) -> Json<Vec<Mail>> {
    Json(state.outbox.list())
}

/// Takes an invitation back.
#[utoipa::path(context_path = "/api/v1", tag = "people", params(("id" = Uuid, Path)),
    responses((status = 204), (status = 403, body = Problem), (status = 404, body = Problem)))]
#[delete("/invitations/<id>")]
pub(crate) async fn revoke_invitation(
    _by: Administrator,
    id: Result<RecordId, ApiError>,
    db: Db<'_>,
) -> Result<Status, ApiError> {
    store::revoke_invitation(db.0, id?.0).await?;
    Ok(Status::NoContent)
}
