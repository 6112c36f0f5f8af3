//! Structures and conditions of the starting set get the standard English terms; names from before stay findable. What somebody edited stays as it is.

use pruvex_core::catalogue::name_key;
use sea_orm_migration::prelude::*;
use sea_orm_migration::sea_orm::prelude::Uuid;
use sea_orm_migration::sea_orm::{ConnectionTrait, DbBackend, DbErr, Statement, Value as SqlValue};
use serde_json::{Value, json};

#[derive(DeriveMigrationName)]
pub struct Migration;

/// The starting set; `was` is the name that an entry had before.
const SET: &str = include_str!("../../data/vocabulary.json");

/// The entry with this name that nobody has edited.
const UNTOUCHED_STRUCTURE: &str = "SELECT s.id FROM structure s JOIN structure_name n ON n.structure_id = s.id
    WHERE n.region = $1 AND n.key = $2 AND n.position = 0 AND s.version = 1";
/// A condition that nobody has edited and nothing is about.
const UNTOUCHED_CONDITION: &str = "SELECT c.id FROM condition c WHERE c.region = $1 AND c.name_key = $2 AND c.version = 1
    AND NOT EXISTS (SELECT 1 FROM test WHERE condition_id = c.id) AND NOT EXISTS (SELECT 1 FROM accuracy_result WHERE condition_id = c.id)
    AND NOT EXISTS (SELECT 1 FROM condition o WHERE o.region = $1 AND o.name_key = $3)";
const REVISION: &str = "INSERT INTO revision (kind, record_id, version, action, comment, content, at)
    VALUES ($1, $2, $3, 'imported', '', $4, now())";

struct Db<'a, 'b>(&'a SchemaManagerConnection<'b>);

impl Db<'_, '_> {
    async fn run(&self, sql: &str, values: Vec<SqlValue>) -> Result<(), DbErr> {
        self.0.execute_raw(Statement::from_sql_and_values(DbBackend::Postgres, sql, values)).await.map(|_| ())
    }

    async fn id(&self, sql: &str, values: Vec<SqlValue>) -> Result<Option<Uuid>, DbErr> {
        let row = self.0.query_one_raw(Statement::from_sql_and_values(DbBackend::Postgres, sql, values)).await?;
        row.map(|row| row.try_get_by_index(0)).transpose()
    }
}

fn text(of: &Value, field: &str) -> String {
    of[field].as_str().unwrap_or_default().to_owned()
}

/// Renames a structure of the set, or adds it where none of its names is in use.
async fn structure(db: &Db<'_, '_>, entry: &Value) -> Result<(), DbErr> {
    let (region, name) = (text(entry, "region"), text(entry, "name"));
    let was = entry["was"].as_str().unwrap_or(&name);
    let found = db.id(UNTOUCHED_STRUCTURE, vec![region.clone().into(), name_key(was).into()]).await?;
    let taken = "SELECT structure_id FROM structure_name WHERE region = $1 AND key = $2";
    let others = entry["other_names"].as_array().into_iter().flatten().filter_map(Value::as_str).map(str::to_owned);
    let mut names: Vec<String> = Vec::new();
    for (position, label) in std::iter::once(name.clone()).chain(others).enumerate() {
        let holder = db.id(taken, vec![region.clone().into(), name_key(&label).into()]).await?;
        let free = holder.is_none() || holder == found;
        if !free && position == 0 {
            return Ok(());
        }
        if free && !names.iter().any(|it| name_key(it) == name_key(&label)) {
            names.push(label);
        }
    }
    let (id, version) = found.map_or_else(|| (Uuid::now_v7(), 1), |id| (id, 2));
    if found.is_some() {
        db.run("DELETE FROM structure_name WHERE structure_id = $1", vec![id.into()]).await?;
        let update = "UPDATE structure SET version = 2, tissue = $2, actions = $3, updated_at = now() WHERE id = $1";
        db.run(update, vec![id.into(), text(entry, "tissue").into(), entry["actions"].clone().into()]).await?;
    } else {
        let add = "INSERT INTO structure (id, region, tissue, actions, retired, version, created_at, updated_at)
            VALUES ($1, $2, $3, $4, false, 1, now(), now())";
        let values =
            vec![id.into(), region.clone().into(), text(entry, "tissue").into(), entry["actions"].clone().into()];
        db.run(add, values).await?;
    }
    for (position, label) in (0_i32..).zip(&names) {
        let add = "INSERT INTO structure_name (region, key, structure_id, position, label) VALUES ($1, $2, $3, $4, $5)";
        let key = name_key(label);
        db.run(add, vec![region.clone().into(), key.into(), id.into(), position.into(), label.clone().into()]).await?;
    }
    let content = json!({ "region": region, "name": name, "other_names": names.iter().skip(1).collect::<Vec<_>>(),
        "tissue": entry["tissue"], "actions": entry["actions"], "retired": false });
    db.run(REVISION, vec!["structure".into(), id.into(), version.into(), content.into()]).await
}

async fn condition(db: &Db<'_, '_>, entry: &Value) -> Result<(), DbErr> {
    let Some(was) = entry["was"].as_str() else { return Ok(()) };
    let (region, name) = (text(entry, "region"), text(entry, "name"));
    let asked = vec![region.clone().into(), name_key(was).into(), name_key(&name).into()];
    let Some(id) = db.id(UNTOUCHED_CONDITION, asked).await? else { return Ok(()) };
    let update = "UPDATE condition SET name = $2, name_key = $3, version = 2 WHERE id = $1";
    db.run(update, vec![id.into(), name.clone().into(), name_key(&name).into()]).await?;
    let content = json!({ "region": region, "name": name, "setting": "", "pre_test": null });
    db.run(REVISION, vec!["condition".into(), id.into(), 2.into(), content.into()]).await
}

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        let db = Db(manager.get_connection());
        // A new database is filled with the set as it is now.
        if db.id("SELECT id FROM structure LIMIT 1", Vec::new()).await?.is_none() {
            return Ok(());
        }
        let set: Value = serde_json::from_str(SET).map_err(|error| DbErr::Custom(error.to_string()))?;
        for entry in set["structures"].as_array().into_iter().flatten() {
            structure(&db, entry).await?;
        }
        for entry in set["conditions"].as_array().into_iter().flatten() {
            condition(&db, entry).await?;
        }
        Ok(())
    }

    async fn down(&self, _: &SchemaManager) -> Result<(), DbErr> {
        Ok(())
    }
}
