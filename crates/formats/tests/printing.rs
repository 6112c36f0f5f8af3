//! Sheets on paper: every one of the demo takes one or two pages and says what a teacher needs; no text breaks the page.

use lopdf::Document;
use proptest::prelude::*;
use pruvex_core::Probability;
use pruvex_core::accuracy::Counts;
use pruvex_core::catalogue::{Sheet, SheetInput, Status};
use pruvex_core::pooling::{PoolOptions, Pooled, pool};
use pruvex_formats::{Bundle, TeachingSheet, read_bundle, teaching_sheet};

fn demo(module: &str) -> Bundle {
    read_bundle(&std::fs::read(format!("../../demo/{module}.json")).unwrap()).unwrap()
}

fn print(sheet: &Sheet, pooled: Option<&Pooled>, sample: bool) -> Vec<u8> {
    let pre_test = Some(Probability::new(0.2).unwrap());
    let printed = "25 November 2026";
    teaching_sheet(&TeachingSheet { sheet, version: 3, status: Status::Draft, sample, pooled, pre_test, printed })
        .unwrap()
}

/// The words of a document with every run of spaces made one, and how many pages there are.
fn read(pdf: &[u8]) -> (String, usize) {
    let document = Document::load_mem(pdf).unwrap();
    let pages: Vec<u32> = document.get_pages().into_keys().collect();
    let text = document.extract_text(&pages).unwrap();
    (text.split_whitespace().collect::<Vec<_>>().join(" "), pages.len())
}

#[test]
fn the_sheets_of_the_demo_take_two_pages_at_most_and_say_it_all() {
    for module in ["hand_wrist", "neck", "pelvis"] {
        for test in demo(module).tests {
            let counts: Vec<Counts> = test.results.iter().map(|it| it.result.counts).collect();
            let pooled = pool(&counts, PoolOptions::default()).ok();
            let pdf = print(&test.sheet, pooled.as_ref(), true);
            let (text, pages) = read(&pdf);
            let name = &test.sheet.name;
            assert!((1..=2).contains(&pages), "{name}: {pages} pages");
            // Words may be broken at the end of a line: single ones are looked for.
            for part in ["SAMPLE", "version 3", "25 November 2026", "Cautions", "not a diagnosis", "Positive when"] {
                assert!(text.contains(part), "{name} lacks {part:?}: {text}");
            }
            match &pooled {
                Some(pooled) => {
                    let people = pooled.diseased + pooled.non_diseased;
                    let grouped = if people < 1_000 {
                        people.to_string()
                    } else {
                        format!("{} {:03}", people / 1_000, people % 1_000)
                    };
                    assert!(text.contains(&format!("{grouped} people")), "{name}: {grouped} in {text}");
                }
                None => assert!(text.contains("No study is entered")),
            }
        }
    }
}

#[test]
fn the_same_sheet_gives_the_same_bytes_and_figures_as_the_core() {
    let test = demo("hand_wrist").tests.into_iter().find(|test| test.results.len() > 3).unwrap();
    let counts: Vec<Counts> = test.results.iter().map(|it| it.result.counts).collect();
    let pooled = pool(&counts, PoolOptions::default()).unwrap();
    let pdf = print(&test.sheet, Some(&pooled), true);
    assert!(pdf == print(&test.sheet, Some(&pooled), true));
    let (text, _) = read(&pdf);
    let lr = pooled.summary.lr_positive.unwrap().estimate.get();
    let odds = 0.25 * lr;
    let after = format!("{:.0}", 100.0 * odds / (1.0 + odds));
    assert!(text.contains("20 % →"), "{text}");
    assert!(text.contains(&after), "{after} in {text}");
    // Nothing made up, nothing marked as such.
    assert!(!read(&print(&test.sheet, Some(&pooled), false)).0.contains("SAMPLE"));
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(12))]

    /// What a person writes is text, never markup, and never stops the press.
    #[test]
    fn any_words_are_printed_as_they_are(words in "[#$*_@<>\\\\{}\\[\\]\"'`~=/a-z\\n\u{e9}\u{2265}\u{4e2d}\u{627}-]{1,400}") {
        let mut input = SheetInput {
            name: format!("#panic() {words}").chars().take(160).collect(),
            region: "hip".into(),
            purpose: "laxity".into(),
            condition: "$x".into(),
            positive_finding: words.clone(),
            sources: vec![words],
            ..SheetInput::default()
        };
        input.name = input.name.replace('\n', " ");
        if let Ok(sheet) = Sheet::check(&input) {
            let (text, _) = read(&print(&sheet, None, false));
            prop_assert!(text.contains("#panic()"), "{text}");
        }
    }
}
