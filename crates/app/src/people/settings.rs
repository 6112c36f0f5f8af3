//! What the administrator settles for everybody.

use std::collections::HashSet;
use std::hash::Hash;

use pruvex_core::people::{LearnersSee, Right, Role, Settings};
use pruvex_store::ConnectionTrait;
use pruvex_store::evidence::Seen;
use pruvex_store::history::Act;
use pruvex_store::settings as store;
use serde::Serialize;
use utoipa::ToSchema;

use super::{Administrator, DraftReader};
use crate::app::commit;
use crate::{App, AppError, Versioned};

/// What holds for everybody, with its version.
#[derive(Debug, Serialize, ToSchema)]
pub struct SettingsView {
    version: i32,
    #[serde(flatten)]
    settings: Settings,
}

impl From<(Settings, i32)> for SettingsView {
    fn from((settings, version): (Settings, i32)) -> Self {
        Self { version, settings }
    }
}

impl Versioned for SettingsView {
    fn version(&self) -> i32 {
        self.version
    }
}

/// What holds for everybody.
///
/// # Errors
/// Database errors.
pub async fn get_settings(app: &App, _by: &DraftReader) -> Result<SettingsView, AppError> {
    Ok(store::get_settings(&app.db).await?.into())
}

/// Changes what holds for everybody.
///
/// # Errors
/// Changed meanwhile.
pub async fn update_settings(
    app: &App,
    by: &Administrator,
    version: i32,
    mut input: Settings,
) -> Result<SettingsView, AppError> {
    let asked = std::mem::take(&mut input.second_step);
    input.second_step = Role::ALL.into_iter().filter(|role| asked.contains(role)).collect();
    let transaction = app.begin().await?;
    let saved = store::update_settings(&transaction, version, input, Act::of("edited", Some(by.id()))).await?;
    commit(transaction).await?;
    Ok(saved.into())
}

/// What holds for everybody.
pub(crate) async fn current_settings(db: &impl ConnectionTrait) -> Result<Settings, AppError> {
    Ok(store::get_settings(db).await?.0)
}

/// Which results somebody in this role sees.
pub(crate) async fn seen_by(role: Role, db: &impl ConnectionTrait) -> Result<Seen, AppError> {
    if role.may(Right::ReadDrafts) { Ok(Seen::All) } else { seen_by_learners(db).await }
}

/// Which results learners see.
async fn seen_by_learners(db: &impl ConnectionTrait) -> Result<Seen, AppError> {
    Ok(shown_to_learners(current_settings(db).await?.learners_see))
}

/// Of results that somebody sees, those that learners see.
pub(crate) struct ShownToLearners<Id>(Option<HashSet<Id>>);

impl<Id: Eq + Hash> ShownToLearners<Id> {
    /// For somebody in this role; `list` answers the ids of results that are seen so. Who is no more than a learner sees nothing else, and nobody is asked.
    pub async fn of(
        role: Role,
        db: &impl ConnectionTrait,
        list: impl AsyncFnOnce(Seen) -> Result<Vec<Id>, AppError>,
    ) -> Result<Self, AppError> {
        let seen = if role.may(Right::ReadDrafts) { seen_by_learners(db).await? } else { Seen::All };
        Ok(Self(match seen {
            Seen::All => None,
            seen => Some(list(seen).await?.into_iter().collect()),
        }))
    }

    pub fn holds(&self, id: &Id) -> bool {
        self.0.as_ref().is_none_or(|shown| shown.contains(id))
    }
}

/// Which results learners see where this holds.
pub(crate) fn shown_to_learners(learners_see: LearnersSee) -> Seen {
    match learners_see {
        LearnersSee::AllResults => Seen::All,
        LearnersSee::SignedOff => Seen::SignedOff,
    }
}
