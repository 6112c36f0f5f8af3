//! Migrations with data in them, and from two servers at once.

use crate::support::{ACT, database, sheet};
use pruvex_core::catalogue::Region;
use pruvex_core::evidence::{Between, Unit};
use pruvex_core::{StudyId, TestId};
use pruvex_store::history::{Kind, list_revisions};
use pruvex_store::{ConnectionTrait, Connections, Migrator, catalogue, connect, evidence, migrate, vocabulary};
use pruvex_testkit::TestDatabase;
use sea_orm::{DbBackend, Statement};
use sea_orm_migration::MigratorTrait;
use uuid::Uuid;

#[tokio::test]
async fn the_schema_goes_up_down_and_up_with_data_in_it() {
    let (database, db) = database().await;
    let record = catalogue::create_test(&db, &sheet("Thumb lift", &["Lift"]), false, ACT).await.unwrap();
    migrate(&database.url).await.unwrap();
    assert_eq!(catalogue::get_test(&db, record.id).await.unwrap(), record, "a second run changes nothing");
    Migrator::down(&db, None).await.unwrap();
    migrate(&database.url).await.unwrap();
    assert!(catalogue::is_empty(&db).await.unwrap());
    database.drop().await.unwrap();
}

#[tokio::test]
async fn sheets_of_plain_texts_become_structured_ones() {
    let database = TestDatabase::create().await.unwrap();
    let db = connect(&database.url, Connections::Reading).await.unwrap();
    Migrator::up(&db, Some(3)).await.unwrap();
    db.execute_unprepared(
        "INSERT INTO condition VALUES ('01900000-0000-7000-8000-000000000001', 'hand_wrist', 'Weakness', 'weakness', '', null);
         INSERT INTO test (id, region, purpose, condition_id, target_structures, patient_position, steps, positive_finding, cautions,
             pitfalls, sample, created_at, updated_at, status)
         VALUES ('01900000-0000-7000-8000-000000000002', 'hand_wrist', 'strength', '01900000-0000-7000-8000-000000000001',
             '[\"Abductor\"]', 'Sitting', '[\"One\", \"Two\"]', 'Weaker', '[\"Stop on pain\"]', '[]', false, now(), now(), 'draft');
         INSERT INTO test_name VALUES ('thumb lift', '01900000-0000-7000-8000-000000000002', 0, 'Thumb lift'),
             ('li\u{200b}ft', '01900000-0000-7000-8000-000000000002', 1, 'Li\u{200b}ft'),
             ('\u{442}humb lift', '01900000-0000-7000-8000-000000000002', 2, '\u{422}humb lift');
         INSERT INTO revision VALUES ('test', '01900000-0000-7000-8000-000000000002', 1, 'created', '', '{\"name\": \"Thumb lift\",
             \"aliases\": [], \"region\": \"hand_wrist\", \"purpose\": \"strength\", \"condition\": \"Weakness\",
             \"target_structures\": [\"Abductor\"], \"patient_position\": \"Sitting\", \"steps\": [\"One\", \"Two\"],
             \"positive_finding\": \"Weaker\", \"cautions\": [\"Stop on pain\"], \"pitfalls\": []}', null, now());",
    )
    .await
    .unwrap();
    migrate(&database.url).await.unwrap();
    let sheet = catalogue::list_tests(&db).await.unwrap().remove(0).sheet;
    let variant = sheet.baseline().unwrap();
    let steps: Vec<&str> = variant.steps.iter().map(|step| step.text.as_str()).collect();
    assert_eq!((steps, variant.patient_position.as_str()), (vec!["One", "Two"], "Sitting"));
    assert_eq!((variant.targets[0].structure.as_str(), sheet.cautions[0].text.as_str()), ("Abductor", "Stop on pain"));
    for search in ["thumb", "lift", "thumb lift"] {
        assert_eq!(catalogue::find_tests(&db, search, None, true).await.unwrap().len(), 1);
    }
    let keys =
        db.query_one_raw(Statement::from_string(DbBackend::Postgres, "SELECT search_names FROM test")).await.unwrap();
    let keys: String = keys.unwrap().try_get_by_index(0).unwrap();
    assert_eq!(keys, "thumb lift ; lift ; \u{442}humb lift", "a name that now looks like another one stays as it was");
    let structures = vocabulary::list_structures(&db, None).await.unwrap();
    assert!(structures.len() > 100, "the vocabulary begins with a starting set");
    database.drop().await.unwrap();
}

#[tokio::test]
async fn results_that_carried_their_study_get_it_beside_them_and_back() {
    let database = TestDatabase::create().await.unwrap();
    let db = connect(&database.url, Connections::Reading).await.unwrap();
    Migrator::up(&db, Some(9)).await.unwrap();
    let [condition, test, first, second, rated] =
        [1, 2, 3, 4, 5].map(|n| format!("01900000-0000-7000-8000-00000000000{n}"));
    db.execute_unprepared(&format!(
        "INSERT INTO condition (id, region, name, name_key, setting) VALUES ('{condition}', 'hand_wrist', 'Weakness', 'weakness', '');
         INSERT INTO test (id, region, condition_id, sample, created_at, updated_at, status, sheet, search_names, search_text)
            VALUES ('{test}', 'hand_wrist', '{condition}', false, now(), now(), 'draft', '{{}}', '', '');
         INSERT INTO study (id, test_id, reference, population, reference_standard, note, setup, tp, fn, sample, created_at, updated_at,
            deleted_at)
            VALUES ('{first}', '{test}', 'Sample report', 'Adults', 'Follow-up', 'Page 5', '{{\"people\": 40, \"unit\": \"side\"}}', 20, 5,
                true, now(), now(), null),
            ('{second}', '{test}', 'Other report', '', '', '', '{{}}', 1, 2, false, now(), now(), now());
         INSERT INTO agreement VALUES ('{rated}', '{test}', null, '{{\"reference\": \"Sample report\", \"population\": \"Hands\",
            \"between\": \"occasions\", \"figures\": {{\"kind\": \"table\", \"rows\": [[\"4\", \"1\"], [\"2\", \"5\"]]}}}}',
            false, 1, now(), now(), null);
         INSERT INTO revision (kind, record_id, version, action, comment, content, at)
            VALUES ('study', '{first}', 1, 'created', '', '{{\"reference\": \"Sample report\"}}', now());"
    ))
    .await
    .unwrap();
    migrate(&database.url).await.unwrap();
    let test = TestId(Uuid::parse_str(&test).unwrap());
    let results = evidence::list_results(&db, &[test], evidence::Seen::All).await.unwrap();
    assert_eq!(results.len(), 1, "what was deleted stays so");
    let (it, rated) =
        (&results[0], evidence::list_agreements(&db, &[test], evidence::Seen::All).await.unwrap().remove(0));
    assert_eq!((it.id.to_string(), it.sample, it.result.unit), (first, true, Some(Unit::Side)));
    assert_eq!((it.result.note.as_str(), it.result.counts.cells()), ("Page 5", [Some(20), None, Some(5), None]));
    let studies = evidence::get_studies(&db, [it.study_id, rated.study_id]).await.unwrap();
    let said = |id: StudyId| (studies[&id].study.reference.as_str(), studies[&id].study.population.as_str());
    assert_eq!([said(it.study_id), said(rated.study_id)], [("Sample report", "Adults"), ("Sample report", "Hands")]);
    assert_eq!(
        (studies[&it.study_id].study.setup.people, rated.agreement.written().between),
        (Some(40.0), Between::Occasions)
    );
    assert_eq!(list_revisions(&db, Kind::Result, it.id).await.unwrap()[0].content["reference"], "Sample report");

    let since = u32::try_from(Migrator::migrations().len()).unwrap() - 9;
    Migrator::down(&db, Some(since)).await.unwrap();
    let back = "SELECT reference || population || (setup ->> 'unit') || (setup ->> 'people') FROM study WHERE deleted_at IS NULL \
        UNION SELECT content ->> 'population' FROM agreement ORDER BY 1";
    let rows = db.query_all_raw(Statement::from_string(DbBackend::Postgres, back)).await.unwrap();
    let rows: Vec<String> = rows.iter().map(|row| row.try_get_by_index(0).unwrap()).collect();
    assert_eq!(rows, ["Hands", "Sample reportAdultsside40"]);
    database.drop().await.unwrap();
}

#[tokio::test]
async fn structures_get_standard_names_and_what_was_edited_stays() {
    let database = TestDatabase::create().await.unwrap();
    let db = connect(&database.url, Connections::Reading).await.unwrap();
    Migrator::up(&db, Some(20)).await.unwrap();
    let id = |n: u32| format!("01900000-0000-7000-8000-00000000000{n}");
    let structure = |n: u32, region: &str, version: i32, names: &[&str]| {
        let mut sql = format!(
            "INSERT INTO structure VALUES ('{}', '{region}', 'muscle', '[]', false, {version}, now(), now());",
            id(n)
        );
        for (position, name) in names.iter().enumerate() {
            let key = name.to_lowercase();
            sql +=
                &format!("INSERT INTO structure_name VALUES ('{region}', '{key}', '{}', {position}, '{name}');", id(n));
        }
        sql
    };
    let sql = structure(1, "hand_wrist", 1, &["Short thumb abductor", "Abductor pollicis brevis"])
        + &structure(2, "hand_wrist", 2, &["Opponens of the thumb", "Mine"])
        + &structure(3, "knee", 1, &["MCL", "My own ligament"])
        + "INSERT INTO condition VALUES ('01900000-0000-7000-8000-000000000004', 'hip', 'Hip arthritis', 'hip arthritis', '', null);
           INSERT INTO condition VALUES ('01900000-0000-7000-8000-000000000005', 'knee', 'Meniscus tear', 'meniscus tear', 'Clinic', 0.4, 2);";
    db.execute_unprepared(&sql).await.unwrap();
    migrate(&database.url).await.unwrap();
    let all = vocabulary::list_structures(&db, None).await.unwrap();
    let of = |n: u32| all.iter().find(|it| it.id.to_string() == id(n)).unwrap();
    let names = |n: u32| of(n).structure.names().map(str::to_owned).collect::<Vec<_>>();
    assert_eq!(names(1), ["Abductor pollicis brevis", "short thumb abductor", "APB"]);
    assert_eq!((of(1).version, of(1).structure.actions.len()), (2, 1));
    let kept = list_revisions(&db, Kind::Structure, of(1).id).await.unwrap();
    assert_eq!((kept[0].version, &kept[0].content["name"]), (2, &serde_json::json!("Abductor pollicis brevis")));
    assert_eq!((names(2), of(2).version), (vec!["Opponens of the thumb".to_owned(), "Mine".to_owned()], 2), "edited");
    assert_eq!(names(3), ["MCL", "My own ligament"]);
    let find = |region: Region, name: &str| {
        all.iter().filter(|it| it.structure.region == region && it.structure.name == name).count()
    };
    assert_eq!(find(Region::Knee, "Medial collateral ligament of the knee"), 1);
    let ligament = all.iter().find(|it| it.structure.name == "Medial collateral ligament of the knee").unwrap();
    assert!(!ligament.structure.names().any(|name| name == "MCL"), "an abbreviation that somebody uses stays theirs");
    assert!(all.len() > 350 && find(Region::HandWrist, "Opponens pollicis") == 1, "{}", all.len());
    let conditions = "SELECT name FROM condition WHERE id::text LIKE '01900000%' ORDER BY id";
    let rows = db.query_all_raw(Statement::from_string(DbBackend::Postgres, conditions)).await.unwrap();
    let rows: Vec<String> = rows.iter().map(|row| row.try_get_by_index(0).unwrap()).collect();
    assert_eq!(rows, ["Hip osteoarthritis", "Meniscus tear"]);
    database.drop().await.unwrap();
}

#[tokio::test]
async fn hands_of_sheets_become_contacts_in_sheets_histories_and_what_is_being_written() {
    let database = TestDatabase::create().await.unwrap();
    let db = connect(&database.url, Connections::Reading).await.unwrap();
    Migrator::up(&db, Some(24)).await.unwrap();
    let [condition, test, account] = [1, 2, 3].map(|n| format!("01900000-0000-7000-8000-00000000000{n}"));
    let sheet = r#"{"name": "Thumb lift", "region": "hand_wrist", "purpose": "strength", "condition": "Weakness", "positive_finding": "Weak",
        "burden": {"hands": 2}, "variants": [{"name": "Bare"}, {"name": "Pushed", "equipment": ["Gauge"],
        "hands": [{"placement": "Thumb", "task": "resist"}, {"placement": "Table", "task": null}]}]}"#;
    db.execute_unprepared(&format!(
        "INSERT INTO condition (id, region, name, name_key, setting) VALUES ('{condition}', 'hand_wrist', 'Weakness', 'weakness', '');
         INSERT INTO test (id, region, condition_id, sample, created_at, updated_at, status, sheet, search_names, search_text)
            VALUES ('{test}', 'hand_wrist', '{condition}', false, now(), now(), 'draft', '{sheet}', '', '');
         INSERT INTO account (id, login, name, role, created_at) VALUES ('{account}', 'a', 'A', 'author', now());
         INSERT INTO revision (kind, record_id, version, action, comment, content, at) VALUES ('test', '{test}', 1, 'created', '', '{sheet}', now());
         INSERT INTO unsaved (account_id, record_id, content, at, what) VALUES ('{account}', '{test}', '{sheet}', now(), 'sheet'),
            ('{account}', '{condition}', '{{\"variants\": [\"x\", {{\"name\": 1, \"hands\": \"x\"}}]}}', now(), 'sheet');"
    ))
    .await
    .unwrap();
    Migrator::up(&db, None).await.unwrap();
    let read = catalogue::get_test(&db, TestId(Uuid::parse_str(&test).unwrap())).await.unwrap().sheet;
    let pushed = &read.variants[1];
    assert_eq!(
        pushed.contacts.iter().map(|it| (it.placement.as_str(), it.tasks.len())).collect::<Vec<_>>(),
        [("Thumb", 1), ("Table", 0)]
    );
    assert_eq!(
        (pushed.equipment[0].name.as_str(), read.burden.hands, read.variants[0].contacts.len()),
        ("Gauge", Some(2.0), 0)
    );
    let all = "SELECT sheet FROM test UNION ALL SELECT content FROM revision WHERE kind = 'test' \
        UNION ALL SELECT content FROM unsaved WHERE record_id IN (SELECT id FROM test)";
    let stored = async || -> Vec<serde_json::Value> {
        let rows = db.query_all_raw(Statement::from_string(DbBackend::Postgres, all)).await.unwrap();
        rows.iter().map(|row| row.try_get_by_index(0).unwrap()).collect()
    };
    let now = stored().await;
    assert!(now.len() == 3 && now.iter().all(|it| *it == now[0]), "a sheet reads alike wherever it stands: {now:#?}");
    Migrator::down(&db, Some(u32::try_from(Migrator::migrations().len()).unwrap() - 24)).await.unwrap();
    let back = &stored().await[0]["variants"][1];
    assert_eq!(
        (&back["hands"][0]["task"], &back["equipment"]),
        (&serde_json::json!("resist"), &serde_json::json!(["Gauge"]))
    );
    database.drop().await.unwrap();
}

#[tokio::test]
async fn two_servers_may_migrate_an_empty_database_at_once() {
    let database = TestDatabase::create().await.unwrap();
    let (a, b) = tokio::join!(migrate(&database.url), migrate(&database.url));
    a.unwrap();
    b.unwrap();
    database.drop().await.unwrap();
}
