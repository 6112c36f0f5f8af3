//! The second step of signing in: a secret shared with somebody's device, and codes for the day it is lost.

use chrono::Utc;
use sea_orm::sea_query::{Expr, ExprTrait};
use sea_orm::{ActiveValue::Set, ColumnTrait, ConnectionTrait, EntityTrait, PaginatorTrait, QueryFilter};
use uuid::Uuid;

use super::SecretHash;
use crate::StoreError;
use crate::entities::{account, recovery_code};

/// The secret of a second step.
#[derive(Clone, PartialEq, Eq)]
pub struct SecondStep {
    /// What the device was given.
    pub secret: Vec<u8>,
    /// A code has shown that the device has it.
    pub confirmed: bool,
}

/// The secret stays out of logs.
impl std::fmt::Debug for SecondStep {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("SecondStep").field("confirmed", &self.confirmed).finish_non_exhaustive()
    }
}

fn of(id: Uuid) -> sea_orm::UpdateMany<account::Entity> {
    account::Entity::update_many().filter(account::Column::Id.eq(id))
}

/// Gives an account without a second step a secret, in place of one that was not confirmed.
///
/// # Errors
/// Database errors.
pub async fn begin_second_step(db: &impl ConnectionTrait, id: Uuid, secret: Vec<u8>) -> Result<(), StoreError> {
    of(id)
        .col_expr(account::Column::SecondStepSecret, Expr::value(secret))
        .filter(account::Column::SecondStepSince.is_null())
        .exec(db)
        .await?;
    Ok(())
}

/// The second step of an account, confirmed or not.
///
/// # Errors
/// Database errors.
pub async fn find_second_step(db: &impl ConnectionTrait, id: Uuid) -> Result<Option<SecondStep>, StoreError> {
    let row = account::Entity::find_by_id(id).one(db).await?;
    Ok(row.and_then(|row| {
        let confirmed = row.second_step_since.is_some();
        row.second_step_secret.map(|secret| SecondStep { secret, confirmed })
    }))
}

/// Uses the code of a step of time up: answers whether no code of this step or a later one was used before.
///
/// # Errors
/// Database errors.
pub async fn use_step(db: &impl ConnectionTrait, id: Uuid, step: i64) -> Result<bool, StoreError> {
    let used = of(id)
        .col_expr(account::Column::SecondStepLast, Expr::value(step))
        .filter(account::Column::SecondStepLast.lt(step))
        .exec(db)
        .await?;
    Ok(used.rows_affected == 1)
}

/// From now on the account signs in with its second step. Call within a transaction.
///
/// # Errors
/// Database errors.
pub async fn confirm_second_step(
    db: &impl ConnectionTrait,
    id: Uuid,
    recovery: impl IntoIterator<Item = SecretHash>,
) -> Result<(), StoreError> {
    of(id)
        .col_expr(account::Column::SecondStepSince, Expr::value(Utc::now()))
        .col_expr(account::Column::Version, Expr::col(account::Column::Version).add(1))
        .exec(db)
        .await?;
    let rows = recovery.into_iter().map(|hash| recovery_code::ActiveModel {
        id: Set(Uuid::now_v7()),
        account_id: Set(id),
        code_hash: Set(hash.to_vec()),
    });
    recovery_code::Entity::insert_many(rows).exec(db).await?;
    Ok(())
}

/// Uses a recovery code up: answers whether it was there.
///
/// # Errors
/// Database errors.
pub async fn use_recovery_code(db: &impl ConnectionTrait, id: Uuid, hash: SecretHash) -> Result<bool, StoreError> {
    let used = codes_of(id).filter(recovery_code::Column::CodeHash.eq(hash.to_vec())).exec(db).await?;
    Ok(used.rows_affected == 1)
}

/// How many recovery codes an account has left.
///
/// # Errors
/// Database errors.
pub async fn count_recovery_codes(db: &impl ConnectionTrait, id: Uuid) -> Result<u64, StoreError> {
    Ok(recovery_code::Entity::find().filter(recovery_code::Column::AccountId.eq(id)).count(db).await?)
}

/// The account signs in with its password alone again. Call within a transaction.
///
/// # Errors
/// [`StoreError::NotFound`] when there is no such account, database errors.
pub async fn end_second_step(db: &impl ConnectionTrait, id: Uuid) -> Result<(), StoreError> {
    let ended = of(id)
        .col_expr(account::Column::SecondStepSecret, Expr::value(None::<Vec<u8>>))
        .col_expr(account::Column::SecondStepSince, Expr::value(None::<chrono::DateTime<Utc>>))
        .col_expr(account::Column::Version, Expr::col(account::Column::Version).add(1))
        .exec(db)
        .await?;
    if ended.rows_affected == 0 {
        return Err(StoreError::not_found("account", id));
    }
    codes_of(id).exec(db).await?;
    Ok(())
}

fn codes_of(id: Uuid) -> sea_orm::DeleteMany<recovery_code::Entity> {
    recovery_code::Entity::delete_many().filter(recovery_code::Column::AccountId.eq(id))
}
