//! Pooled answers at hand: computed once, read at the next start. Each can be computed anew, so that nothing is lost with one.

use chrono::Utc;
use pruvex_core::pooling::Pooled;
use sea_orm::sea_query::OnConflict;
use sea_orm::{ActiveValue::Set, ColumnTrait, ConnectionTrait, EntityTrait, QueryFilter, QueryOrder, QuerySelect};

use crate::StoreError;
use crate::entities::pooled_answer::{ActiveModel, Column, Entity};

/// SHA-256 of what an answer depends on.
pub type Asked = [u8; 32];

/// An answer at hand.
#[derive(Debug, Clone, PartialEq)]
pub struct KeptAnswer {
    /// What it depends on.
    pub asked: Asked,
    /// What computed it.
    pub engine: String,
    /// The answer.
    pub pooled: Pooled,
}

/// Rows that are read or written at a time.
const PAGE: usize = 500;

/// All answers at hand. One that this program cannot read, of a later version perhaps, is left out.
///
/// # Errors
/// Database errors.
pub async fn kept_answers(db: &impl ConnectionTrait) -> Result<Vec<KeptAnswer>, StoreError> {
    let (mut answers, mut last) = (Vec::new(), Vec::new());
    loop {
        let page = Entity::find().filter(Column::Asked.gt(last)).order_by_asc(Column::Asked).limit(PAGE as u64);
        let rows = page.all(db).await?;
        let Some(end) = rows.last() else { return Ok(answers) };
        last = end.asked.clone();
        answers.extend(rows.into_iter().filter_map(|row| {
            let pooled = serde_json::from_str(&row.answer).ok()?;
            Some(KeptAnswer { asked: row.asked.try_into().ok()?, engine: row.engine, pooled })
        }));
    }
}

/// Keeps answers that this engine computed, in the place of those of another.
///
/// # Errors
/// Database errors.
pub async fn keep_answers<'a>(
    db: &impl ConnectionTrait,
    engine: &str,
    answers: impl Iterator<Item = (Asked, &'a Pooled)>,
) -> Result<(), StoreError> {
    let row = |(asked, pooled): (Asked, &Pooled)| {
        // A number that JSON does not hold is not read again; it is computed then.
        let answer = serde_json::to_string(pooled).ok()?;
        let engine = Set(engine.to_owned());
        Some(ActiveModel { asked: Set(asked.to_vec()), engine, answer: Set(answer), made_at: Set(Utc::now()) })
    };
    let rows: Vec<ActiveModel> = answers.filter_map(row).collect();
    for page in rows.chunks(PAGE) {
        let columns = [Column::Engine, Column::Answer, Column::MadeAt];
        let newer = OnConflict::column(Column::Asked).update_columns(columns).to_owned();
        Entity::insert_many(page.to_vec()).on_conflict(newer).exec_without_returning(db).await?;
    }
    Ok(())
}

/// Lets go of answers that nobody asks for any more.
///
/// # Errors
/// Database errors.
pub async fn drop_answers(db: &impl ConnectionTrait, unasked: &[Asked]) -> Result<(), StoreError> {
    for page in unasked.chunks(PAGE) {
        let page = page.iter().map(|asked| asked.to_vec());
        Entity::delete_many().filter(Column::Asked.is_in(page)).exec(db).await?;
    }
    Ok(())
}
