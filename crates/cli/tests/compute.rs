//! The computing commands: their answers in words and in JSON, and bad input with its place.

use std::io::Write;
use std::process::{Command, Stdio};

use serde_json::{Value, json};

/// Whether it succeeded, and all it said.
fn run(arguments: &[&str], input: &str) -> (bool, String) {
    let mut child = Command::new(env!("CARGO_BIN_EXE_pruvex"))
        .args(arguments)
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .unwrap();
    // A command that refuses its arguments does not read on.
    let _ = child.stdin.take().unwrap().write_all(input.as_bytes());
    let output = child.wait_with_output().unwrap();
    let said = [output.stdout, output.stderr].concat();
    (output.status.success(), String::from_utf8(said).unwrap())
}

/// The JSON answer, which must be what the published schema says of the command.
fn parsed(arguments: &[&str], input: &str) -> Value {
    let (success, said) = run(&[arguments, &["--format", "json"]].concat(), input);
    assert!(success, "{said}");
    let answer = serde_json::from_str(&said).unwrap();
    let mut schema: Value =
        serde_json::from_str(&std::fs::read_to_string("../../docs/schema/commands.schema.json").unwrap()).unwrap();
    schema["$ref"] = json!(format!("#/$defs/{}", arguments[0]));
    let faults: Vec<String> =
        jsonschema::validator_for(&schema).unwrap().iter_errors(&answer).map(|fault| fault.to_string()).collect();
    assert!(faults.is_empty(), "{arguments:?}: {faults:?}\n{said}");
    answer
}

#[test]
fn every_option_of_pool_keeps_to_the_published_schema() {
    let perfect = "study,tp,fp,fn,tn,site\na,20,0,5,24,x\nb,31,0,12,40,x\nc,14,0,9,30,y\nd,9,0,3,12,y\n";
    let mixed = "study,tp,fp,fn,tn,site\na,20,4,5,24,x\nb,31,9,12,40,x\nc,14,2,9,30,y\nd,9,3,3,12,y\ne,9,,3,,y\n";
    let extra = ["--by", "site", "--leave-one-out", "--small-study", "--roc", "--without", "site=x"];
    for input in [perfect, mixed, "study,tp,fp,fn,tn,site\na,20,0,5,24,x\nb,2,1,5,24,x\n"] {
        for model in ["auto", "fixed", "normal-reml"] {
            assert!(parsed(&[&["pool", "-", "--model", model][..], &extra].concat(), input)["k"].as_u64() > Some(1));
        }
    }
    assert!(parsed(&["pool", "-", "--interval", "profile"], mixed)["method"].as_str().unwrap().contains("profile"));
    let posterior = parsed(&["pool", "-", "--interval", "posterior", "--prior-scale", "1"], mixed);
    assert_eq!((&posterior["posterior"]["prior_scale"], &posterior["interval"]), (&json!(1.0), &json!("posterior")));
    assert_eq!(posterior["workings"]["ratios"], "posterior");
    let width =
        |of: &Value| of["lr_positive"]["upper"].as_f64().unwrap() - of["lr_positive"]["lower"].as_f64().unwrap();
    let others = &posterior["other_scales"];
    assert_eq!((&others[0]["prior_scale"], &others[1]["prior_scale"]), (&json!(0.5), &json!(2.0)));
    assert!(width(&others[0]) < width(&posterior) && width(&posterior) < width(&others[1]), "{others}");
    let (success, said) = run(&["pool", "-", "--interval", "posterior"], mixed);
    assert!(success && said.contains("With scale 0.75:") && said.contains("half-normal with scale 1.5"), "{said}");
    for (arguments, told) in [
        (["--interval", "posterior", "--prior-scale", "0"], "from 0.1 to 5"),
        (["--interval", "posterior", "--prior-scale", "wide"], "'wide' is not a number"),
        (["--interval", "posterior", "--model", "fixed"], "leave the model open"),
    ] {
        let (success, said) = run(&[&["pool", "-"][..], &arguments].concat(), mixed);
        assert!(!success && said.contains(told), "{said}");
    }
    let wrong = json!({ "k": "five" });
    let schema: Value = serde_json::from_str(&run(&["schema", "commands"], "").1).unwrap();
    let mut pool = schema.clone();
    pool["$ref"] = json!("#/$defs/pool");
    assert!(!jsonschema::is_valid(&pool, &wrong), "the schema refuses what is no answer");
}

#[test]
fn accuracy_answers_for_each_study() {
    let input = "study,tp,fp,fn,tn\nA,90,10,10,90\nB,20,,5,\n";
    let answer = parsed(&["accuracy", "-"], input);
    assert!((answer[0]["lr_positive"]["lower"].as_f64().unwrap() - 5.139_139_983_481_234).abs() < 1e-8);
    assert_eq!((&answer[1]["study"], &answer[1]["specificity"]), (&json!("B"), &Value::Null));
    let exact = parsed(&["accuracy", "-", "--proportion", "exact", "--ratio", "log"], input);
    assert_eq!(exact[0]["methods"], json!({ "level": 0.95, "proportion": "clopper_pearson", "ratio": "log" }));
    assert!(exact[0]["sensitivity"]["lower"].as_f64() < answer[0]["sensitivity"]["lower"].as_f64());
    let (success, said) = run(&["accuracy", "-"], input);
    assert!(success && said.contains("not estimable") && said.contains("not a diagnosis"), "{said}");
    let (success, said) = run(&["accuracy", "-", "--level", "95"], input);
    assert!(!success && said.contains("0.95"), "{said}");
}

#[test]
fn posttest_is_bayes_rule() {
    let answer = parsed(&["posttest", "--pre-test", "0.25", "--lr", "3", "--lower", "1", "--upper", "infinity"], "");
    assert_eq!(answer, json!({ "estimate": 0.5, "lower": 0.25, "upper": 1.0 }));
    let uncertain =
        ["posttest", "--pre-test", "0.25", "--pre-test-lower", "0.15", "--pre-test-upper", "0.4", "--lr", "3"];
    let more = ["--lower", "2", "--upper", "4.5", "--reassure-below", "0.1", "--benefit", "3", "--harm", "1"];
    let crowd = ["--sensitivity", "0.8", "--specificity", "0.9"];
    let answer = parsed(&[&uncertain[..], &more, &crowd].concat(), "");
    assert!(
        answer["lower"].as_f64().unwrap() < 0.4 && answer["upper"].as_f64().unwrap() > 0.6,
        "wider than by the ratio alone"
    );
    assert_eq!(answer["thresholds"], json!({ "reassure_below": 0.1, "treat_above": 0.25 }));
    assert_eq!((&answer["crossing"]["crosses"], &answer["crossing"]["to"]), (&json!(true), &json!("treat")));
    assert_eq!(answer["per_thousand"]["false_positive"], 75);
    let (_, said) = run(&[&uncertain[..], &more, &crowd].concat(), "");
    assert!(said.contains("above 25.0 %, treat") && said.contains("75 are false alarms"), "{said}");
    for wrong in [
        ["--reassure-below", "0.7", "--treat-above", "0.3"],
        ["--benefit", "0", "--harm", "1"],
        ["--pre-test-lower", "0.4", "--pre-test-upper", "0.5"],
    ] {
        assert!(!run(&[&["posttest", "--pre-test", "0.3", "--lr", "3"][..], &wrong].concat(), "").0, "{wrong:?}");
    }
    for wrong in
        [["--pre-test", "25", "--lr", "3"], ["--pre-test", "0.2", "--lr", "-3"], ["--pre-test", "1", "--lr", "0"]]
    {
        assert!(!run(&[&["posttest"][..], &wrong].concat(), "").0, "{wrong:?}");
    }
}

#[test]
fn odd_input_is_refused_by_its_place_and_with_a_remedy() {
    for (arguments, input, parts) in [
        (&["pool", "-"][..], "study,tp,fp,fn,tn,tp\na,1,2,3,4,5\n", &["standard input", "column tp", "twice"][..]),
        (&["pool", "-"], "study,tp,fp,fn,tn\na,1,2,3,4,5\n", &["line 2, column 6", "\"5\"", "beyond"]),
        (&["accuracy", "-"], "study,tp,fp,fn,tn\na\0b,1,2,3,4\n", &["line 2, column 1", "remove it"]),
        (&["posttest", "--pre-test", "0.2", "--lr", "-3"], "", &["--lr", "must be 0 or more"]),
        (&["posttest", "--pre-test", "0.2", "--lr", "3", "--lower", "8", "--upper", "2"], "", &["--lower <= --lr"]),
        (&["rebuild", "sens_ci=0.9-0.5"], "", &["sens_ci=0.9-0.5", "wrong order"]),
    ] {
        let (success, said) = run(arguments, input);
        assert!(!success && parts.iter().all(|part| said.contains(part)), "{arguments:?}: {said}");
    }
}

#[test]
fn combine_states_its_assumption() {
    let input = "test,sensitivity,specificity\nA,0.8,0.9\nB,0.7,0.85\n";
    let answer = parsed(&["combine", "-"], input);
    assert_eq!(answer["assumption"], "conditional_independence");
    assert!((answer["rules"][0]["sensitivity"].as_f64().unwrap() - 0.94).abs() < 1e-12);
    let (_, said) = run(&["combine", "-"], input);
    assert!(said.contains("at least 2 of 2") && said.contains("not independent"), "{said}");
    let (success, said) = run(&["combine", "-"], "test,sensitivity,specificity\nA,0.8,90\n");
    assert!(!success && said.contains("line 2, column specificity") && said.contains("between 0 and 1"), "{said}");
    let answer = parsed(&["combine", "-", "--correlation", "0.4", "--patterns"], input);
    assert!(answer["dependent"]["rules"][1]["lr_positive"].as_f64() < answer["rules"][1]["lr_positive"].as_f64());
    assert_eq!(answer["patterns"].as_array().unwrap().len(), 4);
    let sequence = ["combine", "-", "--pre-test", "0.3", "--reassure-below", "0.05", "--treat-above", "0.7"];
    let answer = parsed(&sequence, input);
    assert!((1.0..=2.0).contains(&answer["sequence"]["expected_tests"].as_f64().unwrap()));
    let (_, said) = run(&sequence, input);
    assert!(said.contains("on average") && said.contains("bits"), "{said}");
    let file = std::env::temp_dir().join(format!("pruvex-cluster-{}.csv", std::process::id()));
    std::fs::write(&file, "study,tp,fp,fn,tn\nx,40,6,12,50\ny,22,3,9,41\n").unwrap();
    let published = ["combine", "-", "--at-least", "2", "--published", file.to_str().unwrap()];
    assert_eq!(parsed(&published, input)["cluster"]["source"], "published");
    let (_, said) = run(&published, input);
    std::fs::remove_file(&file).unwrap();
    assert!(said.contains("Use the 2 studies"), "{said}");
    assert!(!run(&["combine", "-", "--correlation", "1"], input).0);
}

#[test]
fn agreement_reads_tables_counts_and_measurements() {
    let answer = parsed(&["agreement", "-", "--kind", "table"], "40,9\n6,45\n");
    assert!((answer["kappa"]["value"]["estimate"].as_f64().unwrap() - 0.699_519_230_769_231).abs() < 1e-9);
    let (_, said) = run(&["agreement", "-", "--kind", "table"], "118,5\n2,0\n");
    assert!(said.contains("kappa is low although raters agree"), "{said}");
    let (success, said) = run(&["agreement", "-", "--kind", "counts"], "3,0\n1,2\n0,3\n");
    assert!(success && said.contains("3 subjects, 3 raters each"), "{said}");
    let (success, said) = run(&["agreement", "-", "--kind", "measurements"], "90,86\n97,94\n98,101\n85,85\n");
    assert!(success && said.contains("ICC(2,1)") && said.contains("bias"), "{said}");
    let answer = parsed(&["agreement", "-", "--kind", "ratings"], "pos,pos\nneg,neg\npos,neg\nneg,neg\n");
    assert_eq!((&answer["categories"], &answer["n"]), (&json!(["neg", "pos"]), &json!(4)));
    assert!(parsed(&["agreement", "-", "--kind", "ratings"], "1,1,2\n2,2,2\n")["raters"] == 3);
    assert!(
        parsed(&["agreement", "-", "--kind", "measurements"], "90,86\n97,94\n98,101\n")["bland_altman"].is_object()
    );
    let iccs = "study,value,lower,upper,se\nA,0.71,0.58,0.81,\nB,0.86,0.75,0.92,\nC,0.8,,,0.05\n";
    let answer = parsed(&["agreement", "-", "--kind", "iccs", "--method", "pm"], iccs);
    let pooled = answer["pooled"]["estimate"]["estimate"].as_f64().unwrap();
    assert!(pooled > 0.71 && pooled < 0.86 && answer["studies"].as_array().unwrap().len() == 3);
    let (_, said) = run(&["agreement", "-", "--kind", "kappas"], "study,value,se\nA,0.4,0.1\nB,0.6,0.08\n");
    assert!(said.contains("2 studies pooled") && said.contains("Hartung-Knapp"), "{said}");
    for (kind, input, place) in [
        ("kappas", "study,value,se\nA,1.4,0.1\n", "line 2, column value"),
        ("kappas", "study,value\nA,0.4\n", "line 2, column se"),
        ("iccs", "study,value,lower,upper\nA,0.4,0.5,0.6\n", "line 2, column lower"),
        ("ratings", "a,b\na,\n", "row 2, column 2"),
        ("table", "40,9\n6,x\n", "line 2, column 2"),
        ("table", "40,9\n6\n", "row 2"),
        ("measurements", "1,2\n3,inf\n", "row 2, column 2"),
        ("counts", "3,0\n1,1\n", "row 2"),
    ] {
        let (success, said) = run(&["agreement", "-", "--kind", kind], input);
        assert!(!success && said.contains(place), "{kind}: {said}");
    }
}

#[test]
fn rebuild_finds_names_and_refuses() {
    let unique = parsed(&["rebuild", "N=60", "sens=0.78", "spec=0.84", "diseased=23"], "");
    assert_eq!(
        (&unique["outcome"], &unique["table"]["tp"], &unique["table"]["fn"]),
        (&json!("unique"), &json!(18), &json!(5))
    );
    let (_, several) = run(&["rebuild", "N=60", "sens=78%", "spec=83%"], "");
    assert!(several.contains("tables give all these figures") && several.contains("LR+"), "{several}");
    let none = parsed(&["rebuild", "N=80", "sens=85%", "spec=70%", "prevalence=40%", "ppv=92%"], "");
    assert_eq!(none["outcome"], "contradiction");
    assert!(none["facts"].as_array().unwrap().contains(&json!("ppv=92%")), "{none}");
    let by_interval = parsed(
        &["rebuild", "sens=0.78", "sens_ci=0.58-0.90", "spec=0.84", "spec_ci=0.69-0.92", "--max-per-arm", "120"],
        "",
    );
    assert_eq!(by_interval["outcome"], "unique");
    for wrong in ["sens", "sens=abc", "power=0.8", "ppv_ci=0.1-0.2", "sens_ci=0.1", "N=-4"] {
        assert!(!run(&["rebuild", "N=60", wrong], "").0, "{wrong}");
    }
}

#[test]
fn verify_confirms_a_frozen_pool_and_names_what_differs() {
    let counts = |tp: u32| json!({ "tp": tp, "fp": 5, "fn": 10, "tn": 45 });
    let result = |id: u32, tp: u32| {
        json!({ "id": format!("01900000-0000-7000-8000-00000000000{id}"), "version": 1,
        "test": "01900000-0000-7000-8000-000000000009", "report": "Report", "out": null, "counts": counts(tp) })
    };
    let mut snapshot = json!({ "format": "pruvex-pool-snapshot/1", "engine": "pruvex-core", "frozen_at": "2026-11-26T10:00:00Z",
        "title": "Wrist module", "note": "", "sample": true, "condition": "Weak thumb", "tests": [], "model": "auto",
        "selection": {}, "results": [result(1, 40), result(2, 30)], "answer": {} });
    let file = |snapshot: &Value| {
        let snapshot: pruvex_core::evidence::Snapshot = serde_json::from_value(snapshot.clone()).unwrap();
        json!({ "hash": snapshot.hash(), "snapshot": snapshot }).to_string()
    };
    let (confirmed, said) = run(&["verify", "-"], &file(&snapshot));
    assert!(!confirmed && said.contains("computed again, these differ") && said.contains("k was null, is 2"), "{said}");
    let frozen: pruvex_core::evidence::Snapshot = serde_json::from_value(snapshot.clone()).unwrap();
    snapshot["answer"] = json!(frozen.pooled().unwrap());
    let (confirmed, said) = run(&["verify", "-"], &file(&snapshot));
    assert!(confirmed && said.contains("Confirmed: Wrist module") && said.contains("SAMPLE DATA"), "{said}");
    assert_eq!(parsed(&["verify", "-"], &file(&snapshot))["results"], 2);
    let (confirmed, said) = run(&["verify", "-", "--hash", "00ff"], &file(&snapshot));
    assert!(!confirmed && said.contains("its content was changed after it was frozen"), "{said}");
    assert!(!run(&["verify", "-"], "{}").0);
}

#[test]
fn biases_are_corrected_or_said_to_be_impossible() {
    let reference = |sensitivity: &'static str, specificity: &'static str| {
        let counts = ["--tp", "80", "--fp", "15", "--fn", "20", "--tn", "85"];
        let errors = ["--reference-sensitivity", sensitivity, "--reference-specificity", specificity];
        [&["bias", "reference"][..], &counts, &errors].concat()
    };
    let answer = parsed(&reference("0.9", "0.95"), "");
    assert!((answer["specificity"].as_f64().unwrap() - 0.93125).abs() < 1e-12, "{answer}");
    assert!((answer["lr_positive"].as_f64().unwrap() - (301.0 / 360.0) / 0.06875).abs() < 1e-9, "{answer}");
    let (success, said) = run(&reference("0.8", "1"), "");
    assert!(success && said.contains("Not to be believed: specificity would lie outside of 0 to 100 %"), "{said}");
    assert_eq!(parsed(&reference("0.5", "0.5"), "")["flags"], json!(["reference_uninformative"]));
    let (success, said) = run(&reference("1.2", "0.9"), "");
    assert!(!success && said.contains("1.2"), "{said}");
    let verification = |unverified: &'static str| {
        let verified = ["--positive-with", "80", "--positive-without", "20", "--negative-with", "5"];
        [&["bias", "verification"][..], &verified, &["--negative-without", "45", "--negative-unverified", unverified]]
            .concat()
    };
    let answer = parsed(&verification("150"), "");
    assert!((answer["sensitivity"]["estimate"].as_f64().unwrap() - 0.8).abs() < 1e-12, "{answer}");
    let (success, said) = run(&verification("150"), "");
    assert!(
        success && said.contains("25.0 % of the test-negatives") && said.contains("80.0 % (62.6 % to 90.5 %)"),
        "{said}"
    );
    let (success, said) = run(&verification("-3"), "");
    assert!(!success && said.contains("-3"), "{said}");
}

#[test]
fn check_tells_what_the_sheets_of_a_file_contradict_and_what_follows_from_them() {
    let sheet = |name: &str, effort: &str, bias: &str| {
        json!({ "name": name, "region": "hand_wrist", "purpose": "laxity", "condition": "Loose thumb", "positive_finding": "Opens",
            "cautions": [{ "text": "With care" }],
            "pitfalls": [{ "text": "The thumb turns along", "effect": "more_motion", "bias": bias }],
            "variants": [{ "name": "As taught",
                "steps": [{ "text": format!("{name}: hold against the push"), "mode": "resisted", "motion": "adduction", "effort": effort }],
                "criteria": [{ "outcome": "positive", "kind": "sign", "text": "Opens" }, { "outcome": "negative", "text": "Firm" }] }] })
    };
    let tests =
        [sheet("Thumb pulled", "adduction", "towards_negative"), sheet("Finger bent", "abduction", "towards_positive")];
    let tests = tests.map(|sheet| json!({ "sheet": sheet }));
    let bundle =
        json!({ "format": "pruvex-bundle", "schema_version": 3, "title": "Thumb", "sample": true, "tests": tests })
            .to_string();
    let answer = parsed(&["check", "-"], &bundle);
    let codes = |place: usize| {
        answer[place]["findings"].as_array().unwrap().iter().map(|it| it["code"].clone()).collect::<Vec<_>>()
    };
    assert_eq!((codes(0), codes(1)), (vec![json!("effort_against_push"), json!("bias_against_effect")], vec![]));
    assert_eq!(answer[1]["derived"]["steps"][0][0], json!({ "push": "adduction", "effort": "abduction" }));
    assert_eq!(answer[1]["derived"]["pitfalls"][0]["direction"], json!("towards_positive"));
    let (done, said) = run(&["check", "-"], &bundle);
    assert!(
        done && said.contains("Thumb pulled (sample data): 2 warnings") && said.contains("variants[0].steps[0]: "),
        "{said}"
    );
    let (done, said) = run(&["check", "-"], &bundle.replace("\"more_motion\"", "\"magic\""));
    assert!(!done && said.contains("tests[0].sheet.pitfalls[0].effect"), "{said}");
}

#[test]
fn calibration_compares_probabilities_and_own_estimates() {
    let judged = parsed(&["calibration", "-"], "probability,came\n0.8,1\n0.2,0\n0.6,0\n0.7,1\n");
    assert_eq!((&judged["n"], &judged["events"]), (&json!(4), &json!(2)));
    assert!((judged["brier"].as_f64().unwrap() - (0.04 + 0.04 + 0.36 + 0.09) / 4.0).abs() < 1e-12);
    let own = "pre_test,ratio,given\n0.5,4,0.7\n0.5,0.25,0.3\n0.3,infinity,0.9\n";
    let estimates = parsed(&["calibration", "-"], own);
    assert!(estimates["n"] == 2 && estimates["line"]["slope"].as_f64().unwrap() < 1.0, "{estimates}");
    let (done, said) = run(&["calibration", "-"], own);
    assert!(done && said.contains("below 1 is conservative"), "{said}");
    for (table, told) in [
        ("probability,came\n1.2,1\n", "line 2, column probability"),
        ("probability,came\n0.2,yes\n", "neither 1 nor 0"),
        ("pre_test,ratio,given\n0.3,-1,0.4\n", "line 2, column ratio"),
        ("pre_test,ratio,given\n0.3,0,0.4\n", "nothing in it can be compared"),
        ("p\n0.3\n", "it needs probability,came"),
    ] {
        let (done, said) = run(&["calibration", "-"], table);
        assert!(!done && said.contains(told), "{told}: {said}");
    }
}

#[test]
fn drills_are_made_of_the_sheets_of_a_bundle_and_come_again_with_their_seed() {
    for skill in ["faults", "direction", "interpretation", "screening", "procedure"] {
        let asked = |seed: &str| {
            parsed(&["drill", "../../demo/hand_wrist.json", "--skill", skill, "--count", "20", "--seed", seed], "")
        };
        let made = asked("7");
        assert_eq!(made.as_array().unwrap().len(), 20);
        assert_eq!(made, asked("7"));
        assert_eq!(made[1], asked("8")[0], "each has a seed of its own");
        let (done, said) = run(&["drill", "../../demo/hand_wrist.json", "--skill", skill], "");
        assert!(done && said.contains("Right: "), "{said}");
    }
    let (done, said) = run(&["drill", "../../demo/neck.json", "--skill", "faults", "--region", "hip"], "");
    assert!(!done && said.contains("no published sheet"), "{said}");
}

#[test]
fn levels_answers_for_each_study_and_pools_those_that_share_them() {
    let table = "study,level,with,without\nA,easy,11,32\nA,hard,26,4\nA,cannot,12,1\nB,easy,12,44\nC,mild,5,9\nB,hard,15,13\nB,cannot,4,1\nC,severe,9,1\n";
    let answer = parsed(&["levels", "-"], table);
    let ratio = answer["studies"][0]["levels"][1]["ratio"]["estimate"].as_f64().unwrap();
    assert!((ratio - (26.0 / 49.0) / (4.0 / 37.0)).abs() < 1e-12);
    assert_eq!((&answer["apart"], &answer["pooled"][2]["with"]), (&json!(["C"]), &json!(16)));
    assert_eq!(answer["studies"][0]["cuts"][0]["from"], "hard");
    let (done, said) = run(&["levels", "-"], table);
    assert!(done && said.contains("Pooled over 2 studies") && said.contains("Other levels, not pooled: C"), "{said}");
    let (done, said) = run(&["levels", "-"], "study,level,with,without\nA,easy,11,\nA,hard,x,4\n");
    assert!(!done && said.contains("line 3"), "{said}");
    let (done, said) = run(&["levels", "-"], "study,level,with,without\nA,easy,11,\nA,hard,2,4\n");
    assert!(!done && said.contains("A: levels[0].without"), "{said}");
}

#[test]
fn prevalence_answers_with_and_without_symptoms() {
    let answer =
        parsed(&["prevalence", "-"], "source,symptoms,people,with_condition\nA,with,150,96\nA,without,120,18\n");
    let ratio = answer["ratio"]["estimate"].as_f64().unwrap();
    assert!((ratio - 0.64 / 0.15).abs() < 1e-9, "{ratio}");
    assert_eq!((&answer["incidental"], &answer["sources"]), (&json!("possible"), &json!(1)));
    let (done, said) = run(&["prevalence", "-"], "source,symptoms,people,with_condition\nA,perhaps,10,11\n");
    assert!(
        !done && said.contains("prevalence[0].symptoms") && said.contains("prevalence[0].with_condition"),
        "{said}"
    );
}

#[test]
fn combine_checks_claims_and_gives_intervals() {
    let input = "test,sensitivity,specificity,sensitivity_lower,sensitivity_upper,specificity_lower,specificity_upper\n\
        A,0.88,0.60,0.80,0.93,0.5,0.7\nB,0.73,0.72,0.6,0.82,0.6,0.8\n";
    let file = std::env::temp_dir().join(format!("pruvex-claims-{}.csv", std::process::id()));
    std::fs::write(&file, "at_least,sensitivity,specificity\n2,85,95\n2,78,\n1,94,\n").unwrap();
    let claims = ["combine", "-", "--claims", file.to_str().unwrap()];
    let answer = parsed(&claims, input);
    let possible = |which: &str| {
        let claims = answer["claims"][which]["claims"].as_array().unwrap();
        claims.iter().map(|it| it["possible"].as_bool().unwrap()).collect::<Vec<_>>()
    };
    assert_eq!(possible("exactly"), [false, false, true]);
    assert_eq!(possible("loosely"), [false, true, true]);
    let rule = &answer["battery"]["rules"][0]["sensitivity"];
    assert!(rule["lower"].as_f64() > Some(0.9) && rule["upper"].as_f64() < Some(1.0), "{rule}");
    let (_, said) = run(&claims, input);
    assert!(
        said.contains("impossible") && said.contains("Whatever the dependence") && said.contains("+11.5 points"),
        "{said}"
    );
    std::fs::write(&file, "at_least,sensitivity,specificity\n3,85,\n1,116,\n").unwrap();
    let (success, said) = run(&claims, input);
    std::fs::remove_file(&file).unwrap();
    assert!(
        !success && said.contains("line 2, column at_least") && said.contains("line 3, column sensitivity"),
        "{said}"
    );
    let two = "test,sensitivity,specificity\nA,0.88,0.60\nB,0.73,0.72\n";
    assert!(parsed(&["combine", "-", "--covariance", "0.05"], two)["battery"].is_object());
    assert!(!run(&["combine", "-", "--covariance", "0.5"], two).0);
    let half = "test,sensitivity,specificity,sensitivity_lower\nA,0.88,0.60,0.8\n";
    assert!(run(&["combine", "-"], half).1.contains("both ends"));
}

#[test]
fn plan_orders_an_examination_and_says_why() {
    let test = |name: &str, position: &str, irritation: u32, more: &str| {
        format!(
            r#"{{"name":"{name}","position":"{position}","irritation":{irritation},"sensitivity":0.8,"specificity":0.7{more}}}"#
        )
    };
    let tests = [
        test("Sore", "lying", 3, ""),
        test("Once", "sitting", 0, r#","one_attempt":true"#),
        test("Last", "sitting", 0, r#","keep_last":true"#),
    ]
    .join(",");
    let plan = |more: &str| format!(r#"{{"pre_test":0.3,"tests":[{tests}]{more}}}"#);
    let whole = plan(r#","thresholds":{"reassure_below":0.1,"treat_above":0.7},"order":["Sore","Once","Last"]"#);
    let answer = parsed(&["plan", "-"], &whole);
    let names: Vec<&Value> = answer["order"].as_array().unwrap().iter().map(|it| &it["name"]).collect();
    assert_eq!(names, [&json!("Once"), &json!("Sore"), &json!("Last")]);
    assert!(answer["own"]["total"].as_f64() > answer["cost"]["total"].as_f64() && answer["exact"] == true);
    assert!(answer["sequence"]["expected_tests"].as_f64() > Some(1.0));
    let (_, said) = run(&["plan", "-"], &whole);
    assert!(
        said.contains("1. Once (sitting): it allows one valid attempt") && said.contains("kept for last"),
        "{said}"
    );
    for (more, expected) in [
        (r#","before":[["Sore","Once"],["Once","Sore"]]"#, "Sore, Once"),
        (r#","before":[["Sore","Nobody"]]"#, "there is no test \"Nobody\""),
        (r#","order":["Sore"]"#, "names 1 places"),
        (
            r#","weights":{"turning":-1,"one_attempt":1,"irritating_late":1,"informative_early":1}"#,
            "weight of turning over",
        ),
        (r#","wrong":1"#, "unknown field"),
    ] {
        let (success, said) = run(&["plan", "-"], &plan(more));
        assert!(!success && said.contains(expected), "{said}");
    }
}
