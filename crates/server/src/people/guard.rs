//! Guards: a handler that names one in its signature is reached by those who hold the right, and by nobody else.

use pruvex_core::people::Right;
use pruvex_store::people::{Account, find_session};
use rocket::Request;
use rocket::http::Method;
use rocket::request::{FromRequest, Outcome};

use super::Secret;
use crate::problem::{ApiError, refuse};
use crate::state::Db;

/// HttpOnly, SameSite=Strict; its value is a secret.
pub(crate) const SESSION_COOKIE: &str = "pruvex_session";

/// A request that no other site has sent in the user's name: browsers add `Origin` to every request that changes
/// something, and it must be this site. Programs that are no browser send none.
#[derive(Debug)]
pub(crate) struct Origin;

#[rocket::async_trait]
impl<'r> FromRequest<'r> for Origin {
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

/// The signed-in account, if it has the right.
async fn holder(request: &Request<'_>, right: Right) -> Result<Account, ApiError> {
    if !same_origin(request) {
        return Err(ApiError::CrossSite);
    }
    let Outcome::Success(db) = request.guard::<Db<'_>>().await else { return Err(ApiError::DatabaseUnavailable) };
    let secret = request.cookies().get(SESSION_COOKIE).and_then(|cookie| Secret::parse(cookie.value()));
    let secret = secret.ok_or(ApiError::NotSignedIn)?;
    let account = find_session(db.0, secret.hash()).await?.ok_or(ApiError::NotSignedIn)?;
    if account.role.may(right) { Ok(account) } else { Err(ApiError::NotAllowed { right }) }
}

macro_rules! guards {
    ($($(#[$doc:meta])* $name:ident: $right:expr;)*) => {$(
        $(#[$doc])*
        #[derive(Debug)]
        pub(crate) struct $name(#[allow(dead_code, reason = "not every handler needs to know who asks")] pub Account);

        #[rocket::async_trait]
        impl<'r> FromRequest<'r> for $name {
            type Error = ();

            async fn from_request(request: &'r Request<'_>) -> Outcome<Self, ()> {
                match holder(request, $right).await {
                    Ok(account) => Outcome::Success(Self(account)),
                    Err(error) => refuse(request, error),
                }
            }
        }
    )*};
}

guards! {
    /// Anybody with an account.
    Reader: Right::Read;
    /// Who sees drafts and histories.
    DraftReader: Right::ReadDrafts;
    /// Who may write sheets.
    SheetWriter: Right::WriteSheets;
    /// Who may enter studies.
    StudyWriter: Right::WriteStudies;
    /// Who keeps the accounts.
    Administrator: Right::ManageAccounts;
}
