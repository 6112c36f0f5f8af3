//! Signing in and out, joining by invitation, and the keeping of accounts.

use pruvex_app::people::{
    self as cases, AccountChange, AccountView, Administrator, CodeInput, CurrentPassword, DemoInput, DraftReader,
    InvitationInput, InvitationView, JoinInput, Mail, OfferInput, Owner, PasswordInput, ProfileChange, Reader,
    RecoveryCodes, ResetInput, ResetView, SecondStepOffer, SessionView, SettingsView, SignInInput, SignedIn,
};
use pruvex_core::people::Settings as SettingsInput;
use rocket::http::{Cookie, CookieJar, SameSite, Status};
use rocket::serde::json::Json;
use rocket::{State, delete, get, post, put};
use uuid::Uuid;

use crate::body::JsonBody;
use crate::etag::{IfMatch, Tagged};
use crate::guards::{Address, By, SESSION_COOKIE, SameOrigin, Session, Site};
use crate::params::Id;
use crate::problem::{ApiError, Problem};
use crate::ready::{Ready, Settings};

fn begin(jar: &CookieJar<'_>, settings: &Settings, SignedIn { view, secret }: SignedIn) -> Json<SessionView> {
    let cookie = Cookie::build((SESSION_COOKIE, secret))
        .http_only(true)
        .same_site(SameSite::Strict)
        .secure(settings.secure_cookies)
        .path("/")
        .max_age(rocket::time::Duration::days(30));
    jar.add(cookie);
    Json(view)
}

/// Who is signed in.
#[utoipa::path(tag = "people", responses((status = 200, body = SessionView)))]
#[get("/session")]
pub(crate) async fn get_session(session: Session<'_>, app: Ready<'_>) -> Result<Json<SessionView>, ApiError> {
    Ok(Json(cases::get_session(&app, session.0).await?))
}

/// Signs in.
#[utoipa::path(tag = "people", request_body = SignInInput,
    responses((status = 200, body = SessionView), (status = 401, body = Problem), (status = 429, body = Problem)))]
#[post("/session", data = "<input>")]
pub(crate) async fn sign_in(
    _origin: SameOrigin,
    address: Address,
    input: JsonBody<SignInInput>,
    jar: &CookieJar<'_>,
    settings: &State<Settings>,
    app: Ready<'_>,
) -> Result<Json<SessionView>, ApiError> {
    Ok(begin(jar, settings, cases::sign_in(&app, &address.text, input.0).await?))
}

/// Enters the demonstration in a role; only there, and only from the machine that runs it.
#[utoipa::path(tag = "people", request_body = DemoInput,
    responses((status = 200, body = SessionView), (status = 404, body = Problem)))]
#[post("/session/demo", data = "<input>")]
pub(crate) async fn enter_demo(
    _origin: SameOrigin,
    address: Address,
    input: JsonBody<DemoInput>,
    jar: &CookieJar<'_>,
    settings: &State<Settings>,
    app: Ready<'_>,
) -> Result<Json<SessionView>, ApiError> {
    Ok(begin(jar, settings, cases::enter_demo(&app, address.is_local, input.0).await?))
}

/// Signs out.
#[utoipa::path(tag = "people", responses((status = 204)))]
#[delete("/session")]
pub(crate) async fn sign_out(
    _origin: SameOrigin,
    session: Session<'_>,
    jar: &CookieJar<'_>,
    app: Ready<'_>,
) -> Result<Status, ApiError> {
    cases::sign_out(&app, session.0).await?;
    jar.remove(Cookie::build(SESSION_COOKIE).path("/"));
    Ok(Status::NoContent)
}

/// Ends one's other sessions.
#[utoipa::path(tag = "people", responses((status = 204)))]
#[delete("/session/others")]
pub(crate) async fn end_other_sessions(
    by: By<Reader>,
    session: Session<'_>,
    app: Ready<'_>,
) -> Result<Status, ApiError> {
    cases::end_other_sessions(&app, &by, session.0).await?;
    Ok(Status::NoContent)
}

/// Changes one's own password and ends all one's other sessions.
#[utoipa::path(tag = "people", request_body = PasswordInput, responses((status = 204), (status = 429, body = Problem)))]
#[put("/session/password", data = "<input>")]
pub(crate) async fn change_password(
    by: By<Reader>,
    session: Session<'_>,
    address: Address,
    input: JsonBody<PasswordInput>,
    app: Ready<'_>,
) -> Result<Status, ApiError> {
    cases::change_password(&app, &by, session.0, &address.text, input.0).await?;
    Ok(Status::NoContent)
}

/// Changes one's own name, sign-in name and mail address.
#[utoipa::path(tag = "people", request_body = ProfileChange, params(IfMatch), responses((status = 200, body = AccountView)))]
#[put("/session/account", data = "<input>")]
pub(crate) async fn update_profile(
    by: By<Reader>,
    version: IfMatch,
    input: JsonBody<ProfileChange>,
    app: Ready<'_>,
) -> Result<Tagged<AccountView>, ApiError> {
    Ok(Tagged::ok(cases::update_profile(&app, &by, version.0, input.0).await?))
}

/// Begins to set up two-step sign-in for oneself: answers, this once, what an authenticator app is given.
#[utoipa::path(tag = "people", request_body = CurrentPassword,
    responses((status = 200, body = SecondStepOffer), (status = 401, body = Problem), (status = 429, body = Problem)))]
#[post("/session/second-step", data = "<input>")]
pub(crate) async fn begin_second_step(
    by: By<Owner>,
    address: Address,
    input: JsonBody<CurrentPassword>,
    app: Ready<'_>,
) -> Result<Json<SecondStepOffer>, ApiError> {
    Ok(Json(cases::begin_second_step(&app, &by, &address.text, input.0).await?))
}

/// Ends the setting up with a first code, and one's other sessions; answers, this once, recovery codes.
#[utoipa::path(tag = "people", request_body = CodeInput,
    responses((status = 200, body = RecoveryCodes), (status = 401, body = Problem), (status = 429, body = Problem)))]
#[put("/session/second-step", data = "<input>")]
pub(crate) async fn confirm_second_step(
    by: By<Owner>,
    session: Session<'_>,
    input: JsonBody<CodeInput>,
    app: Ready<'_>,
) -> Result<Json<RecoveryCodes>, ApiError> {
    Ok(Json(cases::confirm_second_step(&app, &by, session.0, input.0).await?))
}

/// Turns one's own two-step sign-in off; refused where the role requires it.
#[utoipa::path(tag = "people", request_body = CurrentPassword,
    responses((status = 204), (status = 401, body = Problem), (status = 429, body = Problem)))]
#[post("/session/second-step/end", data = "<input>")]
pub(crate) async fn end_second_step(
    by: By<Reader>,
    address: Address,
    input: JsonBody<CurrentPassword>,
    app: Ready<'_>,
) -> Result<Status, ApiError> {
    cases::end_second_step(&app, &by, &address.text, input.0).await?;
    Ok(Status::NoContent)
}

/// Removes the two-step sign-in of somebody who lost their device, and ends their sessions.
#[utoipa::path(tag = "people", responses((status = 204), (status = 404, body = Problem)))]
#[delete("/accounts/<id>/second-step")]
pub(crate) async fn remove_second_step(
    by: By<Administrator>,
    id: Result<Id<Uuid>, ApiError>,
    app: Ready<'_>,
) -> Result<Status, ApiError> {
    cases::remove_second_step(&app, &by, id?.0).await?;
    Ok(Status::NoContent)
}

/// Makes a link with which the owner of an account sets a new password: it is shown this once, serves once, and for a day.
#[utoipa::path(tag = "people", responses((status = 200, body = ResetView), (status = 404, body = Problem)))]
#[post("/accounts/<id>/reset")]
pub(crate) async fn create_reset(
    by: By<Administrator>,
    id: Result<Id<Uuid>, ApiError>,
    site: Site,
    app: Ready<'_>,
) -> Result<Json<ResetView>, ApiError> {
    Ok(Json(cases::create_reset(&app, &by, id?.0, &site.0).await?))
}

/// Whose password a link sets. Its secret comes in the body: paths stand in logs.
#[utoipa::path(tag = "people", request_body = OfferInput,
    responses((status = 200, body = ResetView), (status = 410, body = Problem)))]
#[post("/reset/offer", data = "<input>")]
pub(crate) async fn get_reset(
    _origin: SameOrigin,
    input: JsonBody<OfferInput>,
    app: Ready<'_>,
) -> Result<Json<ResetView>, ApiError> {
    Ok(Json(cases::get_reset(&app, input.0).await?))
}

/// Sets a new password by a link, ends every session of the account, and signs in.
#[utoipa::path(tag = "people", request_body = ResetInput,
    responses((status = 200, body = SessionView), (status = 410, body = Problem)))]
#[post("/reset", data = "<input>")]
pub(crate) async fn reset_password(
    _origin: SameOrigin,
    input: JsonBody<ResetInput>,
    jar: &CookieJar<'_>,
    settings: &State<Settings>,
    app: Ready<'_>,
) -> Result<Json<SessionView>, ApiError> {
    Ok(begin(jar, settings, cases::reset_password(&app, input.0).await?))
}

/// What an invitation offers. Its secret comes in the body: paths stand in logs.
#[utoipa::path(tag = "people", request_body = OfferInput,
    responses((status = 200, body = InvitationView), (status = 410, body = Problem)))]
#[post("/join/offer", data = "<input>")]
pub(crate) async fn get_offer(
    _origin: SameOrigin,
    input: JsonBody<OfferInput>,
    app: Ready<'_>,
) -> Result<Json<InvitationView>, ApiError> {
    Ok(Json(cases::get_offer(&app, input.0).await?))
}

/// Accepts an invitation: makes the account and signs it in.
#[utoipa::path(tag = "people", request_body = JoinInput,
    responses((status = 200, body = SessionView), (status = 410, body = Problem)))]
#[post("/join", data = "<input>")]
pub(crate) async fn join(
    _origin: SameOrigin,
    input: JsonBody<JoinInput>,
    jar: &CookieJar<'_>,
    settings: &State<Settings>,
    app: Ready<'_>,
) -> Result<Json<SessionView>, ApiError> {
    Ok(begin(jar, settings, cases::join(&app, input.0).await?))
}

/// What holds for everybody.
#[utoipa::path(tag = "people", responses((status = 200, body = SettingsView)))]
#[get("/settings")]
pub(crate) async fn get_settings(by: By<DraftReader>, app: Ready<'_>) -> Result<Tagged<SettingsView>, ApiError> {
    Ok(Tagged::ok(cases::get_settings(&app, &by).await?))
}

/// Changes what holds for everybody.
#[utoipa::path(tag = "people", request_body = SettingsInput, params(IfMatch), responses((status = 200, body = SettingsView)))]
#[put("/settings", data = "<input>")]
pub(crate) async fn update_settings(
    by: By<Administrator>,
    version: IfMatch,
    input: JsonBody<SettingsInput>,
    app: Ready<'_>,
) -> Result<Tagged<SettingsView>, ApiError> {
    Ok(Tagged::ok(cases::update_settings(&app, &by, version.0, input.0).await?))
}

/// Everybody's accounts.
#[utoipa::path(tag = "people", responses((status = 200, body = Vec<AccountView>)))]
#[get("/accounts")]
pub(crate) async fn list_accounts(by: By<Administrator>, app: Ready<'_>) -> Result<Json<Vec<AccountView>>, ApiError> {
    Ok(Json(cases::list_accounts(&app, &by).await?))
}

/// Changes an account's role, or ends or gives back its access. What it wrote stays.
#[utoipa::path(tag = "people", request_body = AccountChange,
    params(IfMatch),
    responses((status = 200, body = AccountView)))]
#[put("/accounts/<id>", data = "<input>")]
pub(crate) async fn update_account(
    by: By<Administrator>,
    id: Result<Id<Uuid>, ApiError>,
    version: IfMatch,
    input: JsonBody<AccountChange>,
    app: Ready<'_>,
) -> Result<Tagged<AccountView>, ApiError> {
    Ok(Tagged::ok(cases::update_account(&app, &by, id?.0, version.0, input.0).await?))
}

/// Invitations that can still be used.
#[utoipa::path(tag = "people", responses((status = 200, body = Vec<InvitationView>)))]
#[get("/invitations")]
pub(crate) async fn list_invitations(
    by: By<Administrator>,
    app: Ready<'_>,
) -> Result<Json<Vec<InvitationView>>, ApiError> {
    Ok(Json(cases::list_invitations(&app, &by).await?))
}

/// Invites somebody: answers the link, which is shown this once.
#[utoipa::path(tag = "people", request_body = InvitationInput,
    responses((status = 200, body = InvitationView)))]
#[post("/invitations", data = "<input>")]
pub(crate) async fn create_invitation(
    by: By<Administrator>,
    input: JsonBody<InvitationInput>,
    site: Site,
    app: Ready<'_>,
) -> Result<Json<InvitationView>, ApiError> {
    Ok(Json(cases::create_invitation(&app, &by, input.0, &site.0).await?))
}

/// What would have been mailed since the server started; nothing is sent.
#[utoipa::path(tag = "people", responses((status = 200, body = Vec<Mail>)))]
#[get("/mail")]
pub(crate) async fn list_mail(by: By<Administrator>, app: Ready<'_>) -> Json<Vec<Mail>> {
    Json(cases::list_mail(&app, &by))
}

/// Takes an invitation back.
#[utoipa::path(tag = "people", responses((status = 204)))]
#[delete("/invitations/<id>")]
pub(crate) async fn revoke_invitation(
    by: By<Administrator>,
    id: Result<Id<Uuid>, ApiError>,
    app: Ready<'_>,
) -> Result<Status, ApiError> {
    cases::revoke_invitation(&app, &by, id?.0).await?;
    Ok(Status::NoContent)
}
