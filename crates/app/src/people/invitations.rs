//! Joining by invitation.

use chrono::{DateTime, Utc};
use pruvex_core::people::{AccountInput, NewAccount, Role, check_mail};
use pruvex_store::people::{self as store, Invitation};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

use super::accounts::name_is_free;
use super::password::hash_password;
use super::sessions::begin_session;
use super::{Administrator, Mail, Secret, SignedIn};
use crate::app::commit;
use crate::fields::short_text;
use crate::{App, AppError};

/// Whom to invite.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct InvitationInput {
    role: Role,
    /// For whom, in your own words.
    #[serde(default)]
    note: String,
    /// Where the link is to be mailed to; empty when you pass it on yourself.
    #[serde(default)]
    mail_to: String,
}

/// What a link holds: an invitation's, or that to a new password.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct OfferInput {
    pub(super) secret: String,
}

/// Somebody joins by an invitation.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct JoinInput {
    /// What the link holds.
    secret: String,
    /// What is typed to sign in.
    #[serde(default)]
    login: String,
    /// How the person is called beside what they wrote.
    #[serde(default)]
    name: String,
    /// The password in plain text; it is hashed at once and never stored.
    #[serde(default)]
    password: String,
}

/// An open invitation. The link is shown once, to the one who made it.
#[derive(Debug, Serialize, ToSchema)]
pub struct InvitationView {
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
        Self { id, role, note, expires_at, path: secret.map(Secret::join_path) }
    }
}

/// Invitations that can still be used.
///
/// # Errors
/// Database errors.
pub async fn list_invitations(app: &App, _by: &Administrator) -> Result<Vec<InvitationView>, AppError> {
    let open = store::list_invitations(&app.db).await?;
    Ok(open.into_iter().map(|invitation| InvitationView::of(invitation, None)).collect())
}

/// Invites somebody: answers the link, which is shown this once. `site` is the address at which the inviter sees the application.
///
/// # Errors
/// A note that is too long, an address that is none.
pub async fn create_invitation(
    app: &App,
    by: &Administrator,
    input: InvitationInput,
    site: &str,
) -> Result<InvitationView, AppError> {
    let note = short_text("note", &input.note)?;
    let to = check_mail("mail_to", &input.mail_to).map_err(|error| AppError::Fields(vec![error]))?;
    let secret = Secret::random();
    let invitation = store::create_invitation(&app.db, secret.hash(), input.role, &note, Some(by.id())).await?;
    if !to.is_empty() {
        let link = format!("{site}{}", secret.join_path());
        let until = invitation.expires_at.format("%-d %B %Y");
        let text = format!(
            "{} invites you to join Pruvex as {}.\n\nOpen this link once, until {until}:\n{link}\n\nIf you did not expect this, ignore it.",
            by.account().name,
            invitation.role.code().replace('_', " "),
        );
        app.outbox.send(&to, "You are invited to Pruvex", text);
    }
    Ok(InvitationView::of(invitation, Some(&secret)))
}

/// What would have been mailed since the start; nothing is sent.
#[must_use]
pub fn list_mail(app: &App, _by: &Administrator) -> Vec<Mail> {
    app.outbox.list()
}

/// Takes an invitation back.
///
/// # Errors
/// No such invitation.
pub async fn revoke_invitation(app: &App, _by: &Administrator, id: Uuid) -> Result<(), AppError> {
    Ok(store::revoke_invitation(&app.db, id).await?)
}

/// What an invitation offers, to whoever has its secret.
///
/// # Errors
/// [`AppError::InvitationGone`].
pub async fn get_offer(app: &App, input: OfferInput) -> Result<InvitationView, AppError> {
    let secret = Secret::parse(&input.secret).ok_or(AppError::InvitationGone)?;
    let invitation = store::find_invitation(&app.db, secret.hash()).await?.ok_or(AppError::InvitationGone)?;
    Ok(InvitationView::of(invitation, None))
}

/// Accepts an invitation: makes the account and signs it in.
///
/// # Errors
/// [`AppError::InvitationGone`], a name or password that breaks rules, a login or a name that is taken, [`AppError::Busy`].
pub async fn join(app: &App, input: JoinInput) -> Result<SignedIn, AppError> {
    let JoinInput { secret, login, name, password } = input;
    let secret = Secret::parse(&secret).ok_or(AppError::InvitationGone)?;
    // Hashing costs: only for those who hold an invitation.
    store::find_invitation(&app.db, secret.hash()).await?.ok_or(AppError::InvitationGone)?;
    let new = NewAccount::check(&AccountInput { login, name, password }).map_err(AppError::Fields)?;
    let hash = hash_password(app.hashing.queue()?.enter().await?, new.password).await?;
    let transaction = app.begin().await?;
    let invitation = store::find_invitation(&transaction, secret.hash()).await?.ok_or(AppError::InvitationGone)?;
    if !store::use_invitation(&transaction, invitation.id).await? {
        return Err(AppError::InvitationGone);
    }
    name_is_free(&transaction, &new.name, None).await?;
    let account = store::create_account(&transaction, &new.login, &new.name, invitation.role, Some(hash)).await?;
    commit(transaction).await?;
    begin_session(app, account).await
}
