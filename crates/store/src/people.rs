//! Accounts, invitations and sessions. Secrets arrive here hashed; the times come from the database's user, the server.

mod resets;
mod second_step;

use chrono::{DateTime, Duration, Utc};
use pruvex_core::people::{Profile, Role, login_key};
use pruvex_core::{FieldError, FieldErrorCode};
use sea_orm::sea_query::Expr;
use sea_orm::{
    ActiveModelTrait, ActiveValue::Set, ColumnTrait, ConnectionTrait, EntityTrait, IntoActiveModel, QueryFilter,
    QueryOrder, QuerySelect,
};
use uuid::Uuid;

use crate::StoreError;
use crate::constraint::refused;
use crate::entities::{account, invitation, session, sign_in_failure};

pub use resets::{Reset, create_reset, find_reset, use_reset};
pub use second_step::{
    SecondStep, begin_second_step, confirm_second_step, count_recovery_codes, end_second_step, find_second_step,
    use_recovery_code, use_step,
};

/// SHA-256 of a secret.
pub type SecretHash = [u8; 32];

/// An account.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Account {
    /// Id.
    pub id: Uuid,
    /// Rises by one with every change.
    pub version: i32,
    /// What is typed to sign in.
    pub login: String,
    /// Name shown.
    pub name: String,
    /// Where mail reaches the person; empty where that is not said.
    pub mail: String,
    /// Role.
    pub role: Role,
    /// Signs in with a second step.
    pub second_step: bool,
    /// When access was ended, if it was.
    pub disabled_at: Option<DateTime<Utc>>,
}

/// An open invitation.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Invitation {
    /// Id.
    pub id: Uuid,
    /// The role that the new account will have.
    pub role: Role,
    /// For whom, in the inviter's words.
    pub note: String,
    /// Until when.
    pub expires_at: DateTime<Utc>,
}

/// Sessions end after this long without a request, and in any case after [`SESSION_DAYS`].
const IDLE_DAYS: i64 = 7;
const SESSION_DAYS: i64 = 30;
/// Invitations are used soon or not at all.
const INVITATION_DAYS: i64 = 7;
/// Attempts to sign in are counted over this long.
pub const ATTEMPT_MINUTES: i64 = 15;

/// Whether anybody can sign in with a password.
///
/// # Errors
/// Database errors.
pub async fn has_accounts(db: &impl ConnectionTrait) -> Result<bool, StoreError> {
    let found = account::Entity::find().filter(account::Column::PasswordHash.is_not_null()).limit(1).one(db).await?;
    Ok(found.is_some())
}

/// Adds an account.
///
/// # Errors
/// [`StoreError::Fields`] when the login is taken, database errors.
pub async fn create_account(
    db: &impl ConnectionTrait,
    login: &str,
    name: &str,
    role: Role,
    password_hash: Option<String>,
) -> Result<Account, StoreError> {
    let row = account::ActiveModel {
        id: Set(Uuid::now_v7()),
        login: Set(login_key(login)),
        name: Set(name.to_owned()),
        mail: Set(String::new()),
        role: Set(role.code().to_owned()),
        password_hash: Set(password_hash),
        version: Set(1),
        created_at: Set(Utc::now()),
        disabled_at: Set(None),
        second_step_secret: Set(None),
        second_step_since: Set(None),
        second_step_last: Set(0),
    };
    record(row.insert(db).await.map_err(|error| refused(error, login))?)
}

/// Accounts by name, those without access included.
///
/// # Errors
/// Database errors.
pub async fn list_accounts(db: &impl ConnectionTrait) -> Result<Vec<Account>, StoreError> {
    let rows = account::Entity::find().order_by_asc(account::Column::Name).all(db).await?;
    rows.into_iter().map(record).collect()
}

/// The account that signs in with this name, and its password's hash; nobody without access is found.
///
/// # Errors
/// Database errors.
pub async fn find_login(
    db: &impl ConnectionTrait,
    login: &str,
) -> Result<Option<(Account, Option<String>)>, StoreError> {
    let row = account::Entity::find()
        .filter(account::Column::Login.eq(login_key(login)))
        .filter(account::Column::DisabledAt.is_null())
        .one(db)
        .await?;
    row.map(|row| Ok((record(row.clone())?, row.password_hash))).transpose()
}

/// Changes role and access of an account that was read at `version`; call within a transaction. Ending access ends its sessions.
///
/// # Errors
/// [`StoreError::NotFound`], [`StoreError::Conflict`], [`StoreError::Fields`] when no administrator would be left.
pub async fn update_account(
    db: &impl ConnectionTrait,
    id: Uuid,
    version: i32,
    role: Role,
    disabled: bool,
) -> Result<Account, StoreError> {
    // All administrators are locked, so that two of them cannot remove each other at once.
    let administrators = account::Entity::find()
        .filter(account::Column::Role.eq(Role::Administrator.code()))
        .filter(account::Column::DisabledAt.is_null())
        .lock_exclusive()
        .all(db)
        .await?;
    let found = account::Entity::find_by_id(id).lock_exclusive().one(db).await?;
    let old = found.ok_or(StoreError::not_found("account", id))?;
    if old.version != version {
        return Err(StoreError::Conflict { what: "account", current: old.version });
    }
    let stays = role == Role::Administrator && !disabled;
    if !stays && administrators.iter().all(|administrator| administrator.id == id) && !administrators.is_empty() {
        return Err(StoreError::Fields(vec![FieldError::new(
            "role",
            FieldErrorCode::Invalid,
            role.code(),
            "Nobody would be left to keep the accounts.",
            "Make somebody else an administrator first.",
        )]));
    }
    if disabled || role.code() != old.role {
        end_sessions(db, id, None).await?;
    }
    let disabled_at = if disabled { old.disabled_at.or_else(|| Some(Utc::now())) } else { None };
    let mut row = old.into_active_model();
    row.role = Set(role.code().to_owned());
    row.disabled_at = Set(disabled_at);
    row.version = Set(version + 1);
    record(row.update(db).await?)
}

/// Changes how an account that was read at `version` is called and reached; call within a transaction.
///
/// # Errors
/// [`StoreError::NotFound`], [`StoreError::Conflict`], [`StoreError::Fields`] when the login is taken.
pub async fn update_profile(
    db: &impl ConnectionTrait,
    id: Uuid,
    version: i32,
    profile: &Profile,
) -> Result<Account, StoreError> {
    let found = account::Entity::find_by_id(id).lock_exclusive().one(db).await?;
    let old = found.ok_or(StoreError::not_found("account", id))?;
    if old.version != version {
        return Err(StoreError::Conflict { what: "account", current: old.version });
    }
    let mut row = old.into_active_model();
    row.login = Set(profile.login.clone());
    row.name = Set(profile.name.clone());
    row.mail = Set(profile.mail.clone());
    row.version = Set(version + 1);
    record(row.update(db).await.map_err(|error| refused(error, &profile.login))?)
}

/// Sets a password and ends the account's other sessions; call within a transaction.
///
/// # Errors
/// Database errors.
pub async fn set_password(
    db: &impl ConnectionTrait,
    id: Uuid,
    hash: String,
    keep: SecretHash,
) -> Result<(), StoreError> {
    account::Entity::update_many()
        .col_expr(account::Column::PasswordHash, Expr::value(hash))
        .filter(account::Column::Id.eq(id))
        .exec(db)
        .await?;
    end_sessions(db, id, Some(keep)).await
}

/// Opens an invitation.
///
/// # Errors
/// Database errors.
pub async fn create_invitation(
    db: &impl ConnectionTrait,
    secret: SecretHash,
    role: Role,
    note: &str,
    by: Option<Uuid>,
) -> Result<Invitation, StoreError> {
    let now = Utc::now();
    let row = invitation::ActiveModel {
        id: Set(Uuid::now_v7()),
        token_hash: Set(secret.to_vec()),
        role: Set(role.code().to_owned()),
        note: Set(note.to_owned()),
        created_by: Set(by),
        created_at: Set(now),
        expires_at: Set(now + Duration::days(INVITATION_DAYS)),
        used_at: Set(None),
        revoked_at: Set(None),
    };
    open_invitation(row.insert(db).await?)
}

/// Invitations that can still be used, the newest first.
///
/// # Errors
/// Database errors.
pub async fn list_invitations(db: &impl ConnectionTrait) -> Result<Vec<Invitation>, StoreError> {
    let rows = usable().order_by_desc(invitation::Column::CreatedAt).all(db).await?;
    rows.into_iter().map(open_invitation).collect()
}

/// The invitation of a secret, if it can still be used.
///
/// # Errors
/// Database errors.
pub async fn find_invitation(db: &impl ConnectionTrait, secret: SecretHash) -> Result<Option<Invitation>, StoreError> {
    let row = usable().filter(invitation::Column::TokenHash.eq(secret.to_vec())).one(db).await?;
    row.map(open_invitation).transpose()
}

/// Uses an invitation up: answers whether it was still there. Call within the transaction that adds the account.
///
/// # Errors
/// Database errors.
pub async fn use_invitation(db: &impl ConnectionTrait, id: Uuid) -> Result<bool, StoreError> {
    close_invitation(db, id, invitation::Column::UsedAt).await
}

/// Takes an invitation back.
///
/// # Errors
/// [`StoreError::NotFound`] when it was used, taken back or too old already.
pub async fn revoke_invitation(db: &impl ConnectionTrait, id: Uuid) -> Result<(), StoreError> {
    let found = close_invitation(db, id, invitation::Column::RevokedAt).await?;
    if found { Ok(()) } else { Err(StoreError::not_found("invitation", id)) }
}

async fn close_invitation(db: &impl ConnectionTrait, id: Uuid, column: invitation::Column) -> Result<bool, StoreError> {
    let closed = invitation::Entity::update_many()
        .col_expr(column, Expr::value(Utc::now()))
        .filter(invitation::Column::Id.eq(id))
        .filter(invitation::Column::UsedAt.is_null())
        .filter(invitation::Column::RevokedAt.is_null())
        .filter(invitation::Column::ExpiresAt.gt(Utc::now()))
        .exec(db)
        .await?;
    Ok(closed.rows_affected == 1)
}

fn usable() -> sea_orm::Select<invitation::Entity> {
    invitation::Entity::find()
        .filter(invitation::Column::UsedAt.is_null())
        .filter(invitation::Column::RevokedAt.is_null())
        .filter(invitation::Column::ExpiresAt.gt(Utc::now()))
}

/// Begins a session.
///
/// # Errors
/// Database errors.
pub async fn create_session(db: &impl ConnectionTrait, secret: SecretHash, account: Uuid) -> Result<(), StoreError> {
    let now = Utc::now();
    // Sessions nobody will use again go when new ones come.
    session::Entity::delete_many().filter(session::Column::ExpiresAt.lt(now)).exec(db).await?;
    let row = session::ActiveModel {
        id: Set(Uuid::now_v7()),
        token_hash: Set(secret.to_vec()),
        account_id: Set(account),
        created_at: Set(now),
        last_seen_at: Set(now),
        expires_at: Set(now + Duration::days(SESSION_DAYS)),
    };
    row.insert(db).await?;
    Ok(())
}

/// Whose session this is, if it still lasts. Being asked keeps it from ending for idleness.
///
/// # Errors
/// Database errors.
pub async fn find_session(db: &impl ConnectionTrait, secret: SecretHash) -> Result<Option<Account>, StoreError> {
    let now = Utc::now();
    let found = lasting().filter(session::Column::TokenHash.eq(secret.to_vec())).one(db).await?;
    let Some(session) = found else { return Ok(None) };
    let owner = account::Entity::find_by_id(session.account_id).filter(account::Column::DisabledAt.is_null());
    let Some(owner) = owner.one(db).await? else { return Ok(None) };
    // Once a minute is often enough, and spares a write on every request.
    if session.last_seen_at < now - Duration::minutes(1) {
        session::Entity::update_many()
            .col_expr(session::Column::LastSeenAt, Expr::value(now))
            .filter(session::Column::Id.eq(session.id))
            .exec(db)
            .await?;
    }
    record(owner).map(Some)
}

/// A session beside the one that asks.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct OtherSession {
    /// When it began.
    pub began_at: DateTime<Utc>,
    /// When it was last used, to the minute.
    pub seen_at: DateTime<Utc>,
}

/// Sessions of an account that still last, beside one; the last used first.
///
/// # Errors
/// Database errors.
pub async fn list_other_sessions(
    db: &impl ConnectionTrait,
    account: Uuid,
    own: SecretHash,
) -> Result<Vec<OtherSession>, StoreError> {
    let rows = lasting()
        .filter(session::Column::AccountId.eq(account))
        .filter(session::Column::TokenHash.ne(own.to_vec()))
        .order_by_desc(session::Column::LastSeenAt)
        .all(db)
        .await?;
    Ok(rows.into_iter().map(|row| OtherSession { began_at: row.created_at, seen_at: row.last_seen_at }).collect())
}

/// Ends the sessions of an account, all or all but one.
///
/// # Errors
/// Database errors.
pub async fn end_sessions(
    db: &impl ConnectionTrait,
    account: Uuid,
    keep: Option<SecretHash>,
) -> Result<(), StoreError> {
    let mut query = session::Entity::delete_many().filter(session::Column::AccountId.eq(account));
    if let Some(keep) = keep {
        query = query.filter(session::Column::TokenHash.ne(keep.to_vec()));
    }
    query.exec(db).await?;
    Ok(())
}

fn lasting() -> sea_orm::Select<session::Entity> {
    let now = Utc::now();
    session::Entity::find()
        .filter(session::Column::ExpiresAt.gt(now))
        .filter(session::Column::LastSeenAt.gt(now - Duration::days(IDLE_DAYS)))
}

/// Ends a session.
///
/// # Errors
/// Database errors.
pub async fn end_session(db: &impl ConnectionTrait, secret: SecretHash) -> Result<(), StoreError> {
    session::Entity::delete_many().filter(session::Column::TokenHash.eq(secret.to_vec())).exec(db).await?;
    Ok(())
}

/// An attempt to sign in that has not led to a session.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Attempt {
    /// Id.
    pub id: Uuid,
    /// It was at the login asked about.
    pub same_login: bool,
    /// When.
    pub at: DateTime<Utc>,
}

/// Notes an attempt to sign in.
///
/// # Errors
/// Database errors.
pub async fn note_attempt(db: &impl ConnectionTrait, login: &str, address: &str) -> Result<Uuid, StoreError> {
    let now = Utc::now();
    let old = sign_in_failure::Column::At.lt(now - Duration::minutes(ATTEMPT_MINUTES));
    sign_in_failure::Entity::delete_many().filter(old).exec(db).await?;
    let row = sign_in_failure::ActiveModel {
        id: Set(Uuid::now_v7()),
        login: Set(login_key(login)),
        address: Set(address.to_owned()),
        at: Set(now),
    };
    Ok(row.insert(db).await?.id)
}

/// The latest attempts from an address of the last quarter of an hour, at most `limit`, the newest first.
///
/// # Errors
/// Database errors.
pub async fn list_attempts(
    db: &impl ConnectionTrait,
    login: &str,
    address: &str,
    limit: u64,
) -> Result<Vec<Attempt>, StoreError> {
    let rows = sign_in_failure::Entity::find()
        .filter(sign_in_failure::Column::Address.eq(address))
        .filter(sign_in_failure::Column::At.gt(Utc::now() - Duration::minutes(ATTEMPT_MINUTES)))
        .order_by_desc(sign_in_failure::Column::At)
        .limit(limit)
        .all(db)
        .await?;
    let key = login_key(login);
    Ok(rows.into_iter().map(|row| Attempt { id: row.id, same_login: row.login == key, at: row.at }).collect())
}

/// Forgets an attempt that was not carried out.
///
/// # Errors
/// Database errors.
pub async fn forget_attempt(db: &impl ConnectionTrait, id: Uuid) -> Result<(), StoreError> {
    sign_in_failure::Entity::delete_by_id(id).exec(db).await?;
    Ok(())
}

/// Forgets the attempts of somebody who signed in at last.
///
/// # Errors
/// Database errors.
pub async fn forget_attempts(db: &impl ConnectionTrait, login: &str, address: &str) -> Result<(), StoreError> {
    sign_in_failure::Entity::delete_many()
        .filter(sign_in_failure::Column::Login.eq(login_key(login)))
        .filter(sign_in_failure::Column::Address.eq(address))
        .exec(db)
        .await?;
    Ok(())
}

fn record(row: account::Model) -> Result<Account, StoreError> {
    Ok(Account {
        id: row.id,
        version: row.version,
        login: row.login,
        name: row.name,
        mail: row.mail,
        role: role("account", row.id, &row.role)?,
        second_step: row.second_step_since.is_some(),
        disabled_at: row.disabled_at,
    })
}

fn open_invitation(row: invitation::Model) -> Result<Invitation, StoreError> {
    Ok(Invitation {
        id: row.id,
        role: role("invitation", row.id, &row.role)?,
        note: row.note,
        expires_at: row.expires_at,
    })
}

fn role(what: &'static str, id: Uuid, code: &str) -> Result<Role, StoreError> {
    Role::from_code(code).ok_or_else(|| StoreError::Damaged { what, id, why: "unknown role".to_owned() })
}
