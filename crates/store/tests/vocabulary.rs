//! The vocabulary of structures, and what is kept for its writer.

use crate::support::{ACT, database, sheet};
use pruvex_core::catalogue::{Region, Structure, StructureInput, Tissue};
use pruvex_store::catalogue::create_test;
use pruvex_store::history::newest_change;
use pruvex_store::unsaved::{What, delete_unsaved, get_unsaved, put_unsaved};
use pruvex_store::vocabulary::{create_structure, get_structure, list_structures, update_structure};
use pruvex_store::{ConnectionTrait, StoreError};
use serde_json::json;
use uuid::Uuid;

fn structure(name: &str, other_names: &[&str]) -> Structure {
    let input = StructureInput {
        region: "hand_wrist".to_owned(),
        name: name.to_owned(),
        other_names: other_names.iter().map(|name| (*name).to_owned()).collect(),
        tissue: Some(Tissue::Ligament),
        ..StructureInput::default()
    };
    Structure::check(&input).unwrap()
}

#[tokio::test]
async fn every_region_begins_with_structures_and_each_muscle_acts() {
    let (database, db) = database().await;
    for region in Region::ALL {
        let found = list_structures(&db, Some(region)).await.unwrap();
        assert!(found.len() >= 7, "{region:?} has {}", found.len());
        assert!(found.iter().all(|record| record.structure.region == region && !record.structure.retired));
    }
    let all = list_structures(&db, None).await.unwrap();
    let idle: Vec<&str> = all
        .iter()
        .map(|record| &record.structure)
        .filter(|structure| structure.tissue == Tissue::Muscle && structure.actions.is_empty())
        .map(|structure| structure.name.as_str())
        .collect();
    assert_eq!(
        idle,
        ["Diaphragm", "Intercostal muscles", "Transversus abdominis", "Levator ani and coccygeus"],
        "the checks compare pushes with actions"
    );
    assert!(all.windows(2).all(|pair| pair[0].structure.region <= pair[1].structure.region), "head to foot");
    database.drop().await.unwrap();
}

#[tokio::test]
async fn names_are_unique_within_a_region_and_changes_conflict_loudly() {
    let (database, db) = database().await;
    let before = newest_change(&db).await.unwrap();
    let made = create_structure(&db, &structure("Sample pulley", &["A2 pulley"]), ACT).await.unwrap();
    assert_ne!(newest_change(&db).await.unwrap(), before, "who kept the vocabulary reads it again");
    let twin = create_structure(&db, &structure("Other", &["a2  PULLEY"]), ACT).await.unwrap_err();
    assert!(matches!(&twin, StoreError::Fields(errors) if errors[0].field == "other_names[0]"), "{twin}");
    let knee = Structure { region: Region::Knee, ..structure("Sample pulley", &[]) };
    create_structure(&db, &knee, ACT).await.unwrap();

    let retired = Structure { retired: true, ..structure("Sample pulley, second", &["Sample pulley"]) };
    let saved = update_structure(&db, made.id, 1, &retired, ACT).await.unwrap();
    assert_eq!(get_structure(&db, made.id).await.unwrap(), saved);
    let stale = update_structure(&db, made.id, 1, &retired, ACT).await.unwrap_err();
    assert!(matches!(stale, StoreError::Conflict { current: 2, .. }), "{stale}");
    let gone = update_structure(&db, Uuid::nil(), 1, &retired, ACT).await.unwrap_err();
    assert!(matches!(gone, StoreError::NotFound { .. }), "{gone}");
    db.execute_unprepared("UPDATE structure SET tissue = 'stone'").await.unwrap();
    assert!(matches!(get_structure(&db, made.id).await, Err(StoreError::Damaged { .. })));
    database.drop().await.unwrap();
}

#[tokio::test]
async fn what_is_typed_is_kept_apart_for_each_writer_and_each_form() {
    let (database, db) = database().await;
    let accounts = [Uuid::from_u128(1), Uuid::from_u128(2)];
    for account in accounts {
        db.execute_unprepared(&format!(
            "INSERT INTO account (id, login, name, role, created_at) VALUES ('{account}', 'p{account}', 'P', 'author', now())"
        ))
        .await
        .unwrap();
    }
    let written = create_test(&db, &sheet("Thumb lift", &[]), false, ACT).await.unwrap().id;
    let test = Some(written.0);
    put_unsaved(&db, accounts[0], What::Sheet(None), None, json!({ "name": "a" })).await.unwrap();
    put_unsaved(&db, accounts[0], What::Sheet(test), Some(3), json!({ "name": "b" })).await.unwrap();
    put_unsaved(&db, accounts[0], What::Sheet(test), Some(4), json!({ "name": "c" })).await.unwrap();
    let result = What::Result(written.0);
    let nowhere = What::Sheet(Some(Uuid::from_u128(9)));
    assert!(matches!(put_unsaved(&db, accounts[0], nowhere, None, json!({})).await, Err(StoreError::NotFound { .. })));
    // Nobody fills the database with what is not saved.
    put_unsaved(&db, accounts[1], result, None, json!({ "tp": 4 })).await.unwrap();
    let many = format!(
        "INSERT INTO unsaved (account_id, what, record_id, content, at)
            SELECT '{}', 'reference', gen_random_uuid(), '{{}}', now() FROM generate_series(1, 200)",
        accounts[1]
    );
    db.execute_unprepared(&many).await.unwrap();
    let more = put_unsaved(&db, accounts[1], What::Sheet(None), None, json!({})).await;
    assert!(matches!(more, Err(StoreError::Fields(_))), "{more:?}");
    put_unsaved(&db, accounts[0], result, None, json!({ "tp": 3 })).await.unwrap();
    let kept = get_unsaved(&db, accounts[0], What::Sheet(test)).await.unwrap().unwrap();
    assert_eq!((kept.version, &kept.content), (Some(4), &json!({ "name": "c" })));
    assert_eq!(
        get_unsaved(&db, accounts[0], What::Sheet(None)).await.unwrap().unwrap().content,
        json!({ "name": "a" })
    );
    assert!(get_unsaved(&db, accounts[1], What::Sheet(test)).await.unwrap().is_none());
    delete_unsaved(&db, accounts[0], What::Sheet(test)).await.unwrap();
    delete_unsaved(&db, accounts[0], What::Sheet(test)).await.unwrap();
    assert!(get_unsaved(&db, accounts[0], What::Sheet(test)).await.unwrap().is_none());
    assert!(get_unsaved(&db, accounts[0], What::Sheet(None)).await.unwrap().is_some());
    assert_eq!(get_unsaved(&db, accounts[0], result).await.unwrap().unwrap().content, json!({ "tp": 3 }));
    database.drop().await.unwrap();
}
