//! Links with which somebody sets a new password.

use chrono::{DateTime, Duration, Utc};
use sea_orm::sea_query::Expr;
use sea_orm::{ActiveModelTrait, ActiveValue::Set, ColumnTrait, ConnectionTrait, EntityTrait, QueryFilter};
use uuid::Uuid;

use super::{Account, SecretHash, end_sessions, record};
use crate::StoreError;
use crate::entities::{account, password_reset};

/// A link is passed on by hand or mail and used the same day.
const RESET_HOURS: i64 = 24;

/// A link that can still be used, and whose password it sets.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Reset {
    /// Id.
    pub id: Uuid,
    /// Whose.
    pub account: Account,
    /// Until when.
    pub expires_at: DateTime<Utc>,
}

/// Makes a link for an account with access; one from before that was not used serves no longer. Call within a transaction.
///
/// # Errors
/// [`StoreError::NotFound`] when there is no such account or its access was ended, database errors.
pub async fn create_reset(
    db: &impl ConnectionTrait,
    secret: SecretHash,
    account: Uuid,
    by: Uuid,
) -> Result<Reset, StoreError> {
    let owner = with_access(db, account).await?.ok_or(StoreError::not_found("account", account))?;
    password_reset::Entity::delete_many()
        .filter(password_reset::Column::AccountId.eq(account))
        .filter(password_reset::Column::UsedAt.is_null())
        .exec(db)
        .await?;
    let now = Utc::now();
    let row = password_reset::ActiveModel {
        id: Set(Uuid::now_v7()),
        token_hash: Set(secret.to_vec()),
        account_id: Set(account),
        created_by: Set(Some(by)),
        created_at: Set(now),
        expires_at: Set(now + Duration::hours(RESET_HOURS)),
        used_at: Set(None),
    };
    let row = row.insert(db).await?;
    Ok(Reset { id: row.id, account: owner, expires_at: row.expires_at })
}

/// The link of a secret, if it can still be used and the account still has access.
///
/// # Errors
/// Database errors.
pub async fn find_reset(db: &impl ConnectionTrait, secret: SecretHash) -> Result<Option<Reset>, StoreError> {
    let found = password_reset::Entity::find()
        .filter(password_reset::Column::TokenHash.eq(secret.to_vec()))
        .filter(password_reset::Column::UsedAt.is_null())
        .filter(password_reset::Column::ExpiresAt.gt(Utc::now()))
        .one(db)
        .await?;
    let Some(row) = found else { return Ok(None) };
    let owner = with_access(db, row.account_id).await?;
    Ok(owner.map(|account| Reset { id: row.id, account, expires_at: row.expires_at }))
}

/// Uses a link up, sets the password and ends all sessions of the account; answers whether the link was still there. Call within a
/// transaction.
///
/// # Errors
/// Database errors.
pub async fn use_reset(db: &impl ConnectionTrait, reset: &Reset, hash: String) -> Result<bool, StoreError> {
    let used = password_reset::Entity::update_many()
        .col_expr(password_reset::Column::UsedAt, Expr::value(Utc::now()))
        .filter(password_reset::Column::Id.eq(reset.id))
        .filter(password_reset::Column::UsedAt.is_null())
        .filter(password_reset::Column::ExpiresAt.gt(Utc::now()))
        .exec(db)
        .await?;
    if used.rows_affected != 1 {
        return Ok(false);
    }
    account::Entity::update_many()
        .col_expr(account::Column::PasswordHash, Expr::value(hash))
        .filter(account::Column::Id.eq(reset.account.id))
        .exec(db)
        .await?;
    end_sessions(db, reset.account.id, None).await?;
    Ok(true)
}

async fn with_access(db: &impl ConnectionTrait, id: Uuid) -> Result<Option<Account>, StoreError> {
    let row = account::Entity::find_by_id(id).filter(account::Column::DisabledAt.is_null()).one(db).await?;
    row.map(record).transpose()
}
