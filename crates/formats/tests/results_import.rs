//! Tables of studies and results as people make them, read: what is right comes in as it stands, what is wrong is told cell by cell.

use std::collections::HashMap;
use std::io::{Cursor, Write};

use proptest::prelude::Strategy;
use pruvex_core::FieldError;
use pruvex_core::evidence::{AccuracyInput, AccuracyResult, Study, StudyInput, StudySetup};
use pruvex_formats::{
    Bundle, FIELDS, MAX_ROWS, ReadTable, TableChange, TableFile, change_cells, open_table, read_bundle, read_changes,
    read_mapping, read_results_table, results_template, view_table, write_results_csv, write_results_xlsx,
};
use rust_xlsxwriter::{Format, Formula, Workbook};

/// Reads with the columns as they are recognised.
fn read(file: &TableFile) -> Result<ReadTable, Vec<FieldError>> {
    let view = view_table(file, None, &HashMap::new());
    let columns = view.columns.iter().filter_map(|it| it.field.as_ref().map(|field| format!("{}:{field}", it.letter)));
    let mapping = read_mapping(&columns.collect::<Vec<_>>().join(","))?;
    let table = read_results_table(file, None, &mapping, &|_, _| true).unwrap()?;
    if table.faults.is_empty() { Ok(table) } else { Err(table.all_faults(Vec::new())) }
}

fn read_csv(text: &str) -> Result<ReadTable, Vec<FieldError>> {
    open_table(text.as_bytes(), None).and_then(|file| read(&file))
}

fn places(faults: &[FieldError]) -> Vec<&str> {
    faults.iter().map(|fault| fault.field.as_str()).collect()
}

fn demo(module: &str) -> Bundle {
    read_bundle(&std::fs::read(format!("../../demo/{module}.json")).unwrap()).unwrap()
}

/// What is written can be read: every study and every result as it was.
#[test]
fn a_table_written_here_comes_back_as_it_was() {
    let mut guarded = demo("pelvis");
    "=1+1 is how the report begins".clone_into(&mut guarded.studies[0].study.population);
    "- not said\nsecond line; \"quoted\", é".clone_into(&mut guarded.studies[0].study.note);
    for bundle in [demo("hand_wrist"), demo("neck"), guarded] {
        let expected: Vec<_> =
            bundle.tests.iter().flat_map(|test| test.results.iter().map(move |it| (test, it))).collect();
        let files = [write_results_xlsx(&bundle).unwrap(), write_results_csv(&bundle).unwrap().into_bytes()];
        for bytes in files {
            let table = read(&open_table(&bytes, None).unwrap()).unwrap();
            assert!(
                table.named.iter().map(|it| it.region).eq(expected.iter().map(|(test, _)| Some(test.sheet.region)))
            );
            assert_eq!(table.results.len(), expected.len());
            for (found, (test, it)) in table.results.iter().zip(&expected) {
                assert_eq!(found.test, test.sheet.name);
                // A row has no place for counts per level.
                let result = AccuracyResult { levels: Vec::new(), ..it.result.clone() };
                assert_eq!((&found.result, &found.together), (&result, &it.together), "row {}", found.row);
                let study = &table.studies[found.study];
                assert_eq!((&study.study, study.sample), (&bundle.studies[it.study].study, true), "row {}", found.row);
                let work = bundle.studies[it.study].work.map(|place| bundle.references[place].reference.doi.clone());
                assert_eq!(study.doi, work.unwrap_or_default());
            }
        }
    }
    let template = open_table(&results_template().unwrap(), None).unwrap();
    let view = view_table(&template, None, &HashMap::new());
    assert!(view.columns.iter().map(|it| it.field.as_deref().unwrap()).eq(FIELDS.iter().map(|it| it.name)));
    assert!(places(&read(&template).unwrap_err()).contains(&"file"), "nothing is filled in yet");
}

#[test]
fn rows_of_one_study_share_what_the_first_says_and_printed_figures_become_cells() {
    let table = read_csv(
        "Test name;Citation;Participants;n;TP;FP;FN;TN;Sens;Diseased;Sp;Healthy;Notes\n\
         Palm press;Made-up A;Clinic;80;;;;;78%;23;0,84;57;\n\
         Wrist fold;Made-up A;Clinic;;20;10;3;47;0.87;23;;57;twice\n\
         Palm press;Made-up B;Club;;9;;1;;;;;;\n\
         Wrist fold;Made-up A;;;;;;;;;0.84;57;\n",
    )
    .unwrap();
    assert_eq!(table.results.iter().map(|it| it.study).collect::<Vec<_>>(), [0, 0, 1, 0]);
    assert_eq!(table.studies[0].study.setup.people, Some(80.0));
    let cells = |place: usize| table.results[place].result.counts.cells();
    assert_eq!(cells(0), [Some(18), Some(9), Some(5), Some(48)]);
    assert_eq!(
        table.results[0].result.note, "Cells rebuilt from sensitivity 78% of 23 and specificity 0,84 of 57.",
        "how the counts came about is kept"
    );
    assert_eq!(cells(1), [Some(20), Some(10), Some(3), Some(47)]);
    assert_eq!((cells(2), table.results[1].result.note.as_str()), ([Some(9), None, Some(1), None], "twice"));
}

/// One file, many faults: each is told once, with its cell, what stands there and what to do; nothing comes in.
#[test]
fn every_fault_of_a_workbook_is_told_at_once_with_its_cell() {
    let mut book = Workbook::new();
    let sheet = book.add_worksheet();
    sheet.write(0, 0, "Extraction 2026").unwrap();
    let header =
        ["test", "study", "reference", "design", "people", "women", "tp", "fp", "fn", "tn", "sensitivity", "unit"];
    for (column, name) in (0_u16..).zip(header) {
        sheet.write(2, column, name).unwrap();
    }
    let good = ["Palm press", "", "Made-up A", "one_group", "100", "60", "30", "10", "10", "50", "", "person"];
    let mut number = 3;
    let mut row = |changes: &[(usize, &str)]| {
        for (column, value) in (0_u16..).zip(good) {
            let value =
                changes.iter().find(|(place, _)| *place == usize::from(column)).map_or(value, |(_, value)| value);
            match value.parse::<f64>() {
                Ok(value) => drop(sheet.write(number, column, value).unwrap()),
                Err(_) => drop(sheet.write(number, column, value).unwrap()),
            }
        }
        number += 1;
        number
    };
    row(&[]);
    row(&[(0, ""), (2, "B")]);
    row(&[(2, "")]);
    row(&[(2, "C"), (3, "diary")]);
    row(&[(2, "D"), (4, "99")]);
    row(&[(2, "E"), (5, "160")]);
    row(&[(2, "F"), (6, "thirty")]);
    row(&[(2, "G"), (7, "10.5")]);
    row(&[(2, "H"), (8, "")]);
    row(&[(2, "I"), (10, "0.87")]);
    row(&[(2, "J"), (10, "140")]);
    row(&[(1, "7"), (2, "K")]);
    row(&[(1, "7"), (2, "L"), (11, "side")]);
    row(&[]);
    sheet.merge_range(20, 2, 21, 2, "M", &Format::new()).unwrap();
    sheet.write_formula(22, 6, Formula::new("=1/0").set_result("#DIV/0!")).unwrap();
    let file = open_table(&book.save_to_buffer().unwrap(), None).unwrap();
    assert_eq!(view_table(&file, None, &HashMap::new()).header_row, 3);
    let faults = read(&file).unwrap_err();
    let expected = [
        "A5 (test)",
        "C6 (reference)",
        "D7 (design)",
        "E8 (people)",
        "F9 (women)",
        "G10 (tp)",
        "H11 (fp)",
        "I12 (fn)",
        "K13 (sensitivity)",
        "K14 (sensitivity)",
        "C16 (reference)",
        "A17 (test)",
        "A21 (test)",
        "C21:C22",
        "G21 (tp)",
        "A23 (test)",
        "C23 (reference)",
        "G23 (tp)",
    ];
    assert_eq!(places(&faults), expected);
    for fault in &faults {
        assert!(!fault.message.is_empty() && !fault.remedy.is_empty(), "{fault}");
    }
    let fault = |place: &str| faults.iter().find(|it| it.field == place).unwrap();
    assert_eq!(fault("D7 (design)").remedy, "Write one_group, two_groups, retrospective.");
    assert_eq!((fault("E8 (people)").value.as_str(), fault("G10 (tp)").value.as_str()), ("99", "thirty"));
    assert_eq!(fault("K13 (sensitivity)").message, "The cells give 30 of 40.");
    assert_eq!(fault("C16 (reference)").message, "Row 15 of the same study says K.");
    assert_eq!(fault("A17 (test)").message, "Row 4 is identical.");
    assert_eq!(fault("G23 (tp)").message, "A formula ended in an error here.");
}

#[test]
fn printed_figures_that_leave_cells_open_or_cannot_be_are_refused() {
    let one = |row: &str| {
        let text = format!("test,reference,sensitivity,with_condition,specificity,without_condition,fp,tn\n{row}\n");
        let faults = read_csv(&text).unwrap_err();
        assert_eq!(faults.len(), 1, "{row} {faults:?}");
        format!("{}: {}", faults[0].field, faults[0].message)
    };
    assert_eq!(one("A,B,0.8,40,,,1,2"), "C2 (sensitivity): 30 to 34 of 40 people are printed like this.");
    assert_eq!(one("A,B,0.77,10,,,1,2"), "C2 (sensitivity): No whole number of 10 people is printed like this.");
    assert_eq!(one("A,B,0.77,,,,1,2"), "C2 (sensitivity): The number of people is missing.");
    assert_eq!(one("A,B,0.5,10,0.9,50,25,25"), "E2 (specificity): The cells give 25 of 50.");
    assert_eq!(one("A,B,0.5,10,,60,25,25"), "F2 (without_condition): The cells hold 50 of these people.");
}

#[test]
fn separators_encodings_and_empty_lines_make_no_difference() {
    let rows = [
        ["test", "reference", "tp", "fn"],
        ["Palm press", "Müller, in print", "3", "1"],
        ["Palm press", "Two\nlines", "x", "1"],
    ];
    let text = |separator: &str, end: &str| {
        let line = |row: &[&str; 4]| row.map(|cell| format!("\"{cell}\"")).join(separator) + end + end;
        rows.iter().map(line).collect::<String>()
    };
    let utf16 =
        |text: &str| std::iter::once(0xfeff).chain(text.encode_utf16()).flat_map(u16::to_le_bytes).collect::<Vec<u8>>();
    let latin = |text: &str| text.chars().map(|sign| sign as u8).collect::<Vec<u8>>();
    for (separator, end) in [(",", "\n"), (";", "\r\n"), ("\t", "\n"), ("|", "\r")] {
        let text = text(separator, end);
        for bytes in [
            text.clone().into_bytes(),
            format!("\u{feff}{text}").into_bytes(),
            utf16(&text),
            utf16(&text)[2..].to_vec(),
            latin(&text),
        ] {
            let file = open_table(&bytes, None).unwrap();
            let view = view_table(&file, None, &HashMap::new());
            assert_eq!(view.columns[1].examples, ["Müller, in print", "Two\nlines"], "{separator:?} {end:?}");
            assert_eq!(view.remarks.len(), usize::from(bytes == latin(&text)), "a guessed encoding is told");
            assert_eq!(
                places(&read(&file).unwrap_err()),
                ["C5 (tp)"],
                "as a spreadsheet numbers them {separator:?} {end:?}"
            );
        }
    }
    let faults = open_table(b"test,reference\n\xff\xfe\x00\x01", None);
    assert_eq!(places(&faults.unwrap_err()), ["file"]);
}

/// A workbook with parts added to it.
fn with_parts(parts: &[(&str, &[u8], usize)]) -> Vec<u8> {
    let mut archive = zip::ZipWriter::new_append(Cursor::new(results_template().unwrap())).unwrap();
    let options = zip::write::SimpleFileOptions::default();
    for (name, content, times) in parts {
        archive.start_file(*name, options).unwrap();
        (0..*times).for_each(|_| archive.write_all(content).unwrap());
    }
    archive.finish().unwrap().into_inner()
}

#[test]
fn workbooks_that_are_dangerous_or_too_long_are_refused_in_words() {
    let bomb = with_parts(&[("xl/worksheets/sheet9.xml", &[b' '; 1 << 20], 200)]);
    assert!(bomb.len() < 1 << 20);
    let faults = open_table(&bomb, None).unwrap_err();
    assert!(faults[0].message.contains("unpacks to more"), "{faults:?}");
    let macros = open_table(&with_parts(&[("xl/vbaProject.bin", b"Sub Auto_Open", 1)]), None).unwrap();
    assert!(macros.remarks[0].message.contains("macros"), "{macros:?}");
    for bytes in [&b"PK\x03\x04 not really"[..], b"\xd0\xcf\x11\xe0 an old one", b"", b"\n\n"] {
        assert_eq!(places(&open_table(bytes, None).unwrap_err()), ["file"]);
    }
    let row = "Palm press,Made-up,1,1\n";
    let wide = format!("test,reference,tp,fn{}lost\nPalm press,Made-up,1,1\n", ",".repeat(100));
    let wide = open_table(wide.as_bytes(), None).unwrap();
    assert_eq!(wide.remarks[0].cells, ["CW1"], "what is not looked at is told");
    let long = format!("test,reference,tp,fn\n{}", row.repeat(100_000));
    let faults = open_table(long.as_bytes(), None).unwrap_err();
    assert_eq!(faults[0].message, format!("The table has more than {MAX_ROWS} rows."));
}

#[test]
fn formulas_count_by_their_saved_values_and_swapped_columns_are_asked_about() {
    let mut book = Workbook::new();
    book.add_worksheet().write(0, 0, "About this file").unwrap();
    let sheet = book.add_worksheet();
    for (column, name) in (0_u16..).zip(["test", "reference", "tp", "fp", "fn", "tn", "women"]) {
        sheet.write(0, column, name).unwrap();
    }
    sheet.write_row(1, 0, ["Palm press", "=Made-up"]).unwrap();
    sheet.write_formula(1, 2, Formula::new("=1+2").set_result("3")).unwrap();
    sheet.write_row(1, 3, [30.0, 20.0, 10.0, 0.6]).unwrap();
    let file = open_table(&book.save_to_buffer().unwrap(), None).unwrap();
    assert_eq!((file.sheet, file.sheets.len()), (1, 2), "the sheet whose columns are known");
    let table = read(&file).unwrap();
    assert_eq!(table.results[0].result.counts.cells()[0], Some(3));
    let cells: Vec<_> = file.remarks.iter().chain(&table.remarks).map(|it| it.cells.join(" ")).collect();
    assert_eq!(cells, ["C2", "C2", "G2"]);
}

#[test]
fn columns_are_told_by_their_names_and_by_what_was_chosen_before() {
    let file =
        open_table(b"Special Name;true positives;False-negatives;Where;TP\nPalm press;3;1;Made-up;9\n", None).unwrap();
    let fields = |chosen: &[(&str, Option<&str>)]| {
        let chosen = chosen.iter().map(|(name, field)| ((*name).to_owned(), field.map(str::to_owned))).collect();
        let view = view_table(&file, None, &chosen);
        view.columns.into_iter().map(|it| (it.field.unwrap_or_default(), it.remembered)).collect::<Vec<_>>()
    };
    let named = |of: [(&str, bool); 5]| of.map(|(field, remembered)| (field.to_owned(), remembered)).to_vec();
    let plain = named([("", false), ("tp", false), ("fn", false), ("", false), ("", false)]);
    assert_eq!(fields(&[]), plain, "the first of two columns for one field");
    let chosen = [("specialname", Some("test")), ("where", Some("reference")), ("truepositives", None)];
    assert_eq!(fields(&chosen), named([("test", true), ("", true), ("fn", false), ("reference", true), ("tp", false)]));
    // As people head such columns, in capitals, with signs and in other languages.
    let heads = ["INDEX_TEST", "Ref. std", "True pos", "FP (n)", "Faux négatifs", "VN", "Se %", "Spec.", "Total N"];
    let file = open_table(format!("{}\n1;2;3;4;5;6;7;8;9\n", heads.join(";")).as_bytes(), None).unwrap();
    let found = view_table(&file, None, &Default::default()).columns.into_iter().map(|it| it.field.unwrap_or_default());
    let fields = ["test", "reference_standard", "tp", "fp", "fn", "tn", "sensitivity", "specificity", "people"]
        .map(str::to_owned);
    assert_eq!(found.collect::<Vec<_>>(), fields);
    let faults = read_mapping("A:test,1:tp,B:nonsense,C:test").unwrap_err();
    assert_eq!(faults.iter().map(|it| it.value.as_str()).collect::<Vec<_>>(), ["1:tp", "B:nonsense", "C:test"]);
    let stopped =
        read_results_table(&file, None, &read_mapping("A:test,B:tp,C:fn,D:reference").unwrap(), &|_, _| false);
    assert!(stopped.is_none());
}

/// Texts that a spreadsheet would run, that look like numbers or answers, or that hold separators, quotes and line ends.
fn odd_text() -> impl Strategy<Value = String> {
    let begin = proptest::sample::select(vec!["", "=", "'=", "''", "+1", "-", "@", "n/a", "0.78", "\"", ";", ",\n"]);
    (begin, "\\PC{0,12}").prop_map(|(begin, rest)| format!("{begin}{rest}"))
}

proptest::proptest! {
    /// Whatever stands in the texts of a result and its study, both kinds of table bring it back.
    #[test]
    fn every_text_comes_back(texts in proptest::collection::vec(odd_text(), 7)) {
        let mut bundle = demo("pelvis");
        bundle.tests.truncate(1);
        bundle.tests[0].results.truncate(1);
        let place = bundle.tests[0].results[0].study;
        let study = &bundle.studies[place].study;
        let (reference, population) = (format!("Made-up {}", texts[0]), texts[1].clone());
        let setup = StudySetup { examiners: texts[2].clone(), ..study.setup.clone() };
        let note = texts[3].clone();
        bundle.studies[place].study =
            Study::check(&StudyInput { reference, reference_id: None, population, setup, note }).unwrap();
        let [criterion, group, note] = [4, 5, 6].map(|at| texts[at].clone());
        let input = AccuracyInput { criterion, group, note, ..bundle.tests[0].results[0].result.written() };
        bundle.tests[0].results[0].result = AccuracyResult::check(&input).unwrap();
        for bytes in [write_results_xlsx(&bundle).unwrap(), write_results_csv(&bundle).unwrap().into_bytes()] {
            let table = read(&open_table(&bytes, None).unwrap()).unwrap();
            proptest::prop_assert_eq!(&table.results[0].result, &bundle.tests[0].results[0].result);
            proptest::prop_assert_eq!(&table.studies[0].study, &bundle.studies[place].study);
        }
    }

    /// Whatever a file holds, it is read or refused in words.
    #[test]
    fn no_file_is_too_odd(bytes in proptest::collection::vec(proptest::prelude::any::<u8>(), 0..400), head in 0..3_usize) {
        let head: &[u8] = [&b""[..], b"test,reference,tp,fn,sensitivity,with_condition\n", b"PK\x03\x04"][head];
        let bytes = [head, &bytes].concat();
        match open_table(&bytes, None).and_then(|file| read(&file)) {
            Ok(table) => assert!(table.results.iter().all(|it| it.study < table.studies.len())),
            Err(faults) => assert!(!faults.is_empty()),
        }
    }
}

/// Author and year stand in two columns of most published tables, under headings in capitals, with signs, in other languages.
#[test]
fn author_and_year_in_two_columns_are_one_reference() {
    let table = read_csv(
        "TEST,First Author,Year,VP,FAUX_POSITIFS,FN (n),TN\nLift,Made-up,2017,9,1,1,9\nLift,Made-up 2018,2018,8,1,1,9\n",
    );
    let table = table.unwrap();
    let references: Vec<_> = table.studies.iter().map(|study| study.study.reference.as_str()).collect();
    assert_eq!(references, ["Made-up 2017", "Made-up 2018"]);
    assert_eq!(table.results[0].result.written().fp, Some(1.0));
    let faults = read_csv("test,year,tp,fn\nLift,2017,9,1\n").unwrap_err();
    assert!(faults[0].field.contains("reference"), "a year alone is no reference: {faults:?}");
}

/// What is read in the place of what stands in a file: of one cell, and of all cells of a field that say the same.
#[test]
fn values_are_changed_while_a_table_is_read() {
    let text = "A note above\ntest,reference,tp,fn,setting\nLfit,A,9,one,GP\nLfit,B,8,2,GP\nLift,C,7,3,\n";
    let changed = |changes: &str| {
        let mut file = open_table(text.as_bytes(), None).unwrap();
        let view = view_table(&file, None, &HashMap::new());
        let columns = view.columns.iter().map(|it| format!("{}:{}", it.letter, it.field.as_ref().unwrap()));
        let mapping = read_mapping(&columns.collect::<Vec<_>>().join(",")).unwrap();
        change_cells(&mut file, None, &mapping, &read_changes(changes)?)?;
        read(&file)
    };
    let faults = changed("").unwrap_err();
    assert_eq!(places(&faults), ["D3 (fn)", "E3 (setting)", "E4 (setting)"]);
    let unknown = |fault: &FieldError| fault.code == pruvex_core::FieldErrorCode::Unknown;
    assert_eq!(
        faults.iter().map(unknown).collect::<Vec<_>>(),
        [false, true, true],
        "wrong in every row, or in this one"
    );
    let all = r#"[{"field":"test","was":"Lfit","becomes":" Lift "},{"cell":"d3","becomes":"1"},
        {"field":"setting","was":"GP","becomes":"primary_care"},{"cell":"E5","becomes":"sports"},{"cell":"E4","becomes":""}]"#;
    let table = changed(all).unwrap();
    assert!(table.results.iter().all(|result| result.test == "Lift"));
    assert_eq!(table.results[0].result.written().fn_, Some(1.0));
    let settings: Vec<_> =
        table.studies.iter().map(|it| serde_json::to_value(&it.study.setup).unwrap()["setting"].clone()).collect();
    assert_eq!(settings, ["primary_care".into(), serde_json::Value::Null, "sports".into()]);
    // The headings stay as they are, and so does what is not there.
    for (cell, place) in [("A2", "A2"), ("A1", "A1"), ("D9", "D9"), ("", ""), ("ZZZZ5", "ZZZZ5"), ("XFE5", "XFE5")] {
        let faults = changed(&format!(r#"[{{"cell":"{cell}","becomes":"1"}}]"#)).unwrap_err();
        assert_eq!((faults[0].field.as_str(), faults[0].value.as_str()), ("changes", place));
    }
    for field in ["age", "nonsense"] {
        assert!(changed(&format!(r#"[{{"field":"{field}","was":"1","becomes":"2"}}]"#)).is_err(), "{field}");
    }
    let many = vec![TableChange::Cell { cell: "D3".to_owned(), becomes: "1".to_owned() }; 501];
    for text in ["{}", "[1]", r#"[{"cell":"D3"}]"#, "nonsense", &serde_json::to_string(&many).unwrap()] {
        assert_eq!(read_changes(text).unwrap_err()[0].field, "changes", "{text:.40}");
    }
}
