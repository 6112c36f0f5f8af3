//! References: files as other programs write them, and what is written comes back the same.

use proptest::prelude::*;
use pruvex_core::evidence::{Author, Reference, ReferenceInput, ReferenceKind};
use pruvex_core::{Faults, FieldError};
use pruvex_formats::{CitationStyle, ReadReferences, ReferenceFormat, cite, write_references};

const RIS: &str = "\u{feff}Provider: made up\r\nTY  - JOUR\r\nAU  - Quellan, Ada B.\r\nAU  - Tosk, C.\r\nAU  - Fenwater Teaching Clinic\r\n\
TI  - Held flexion in 90 hands:\r\n a made-up report\r\nJO  - Sample Journal of Examination\r\nPY  - 2019/03/04\r\nVL  - 12\r\nIS  - 3\r\n\
SP  - 481\r\nEP  - 485\r\nDO  - https://doi.org/10.5555/Fenwater.2019.1\r\nER  - \r\n\r\n\
TY  - CHAP\r\nAU  - Orrishaw, D.\r\nTI  - Signs at the wrist\r\nT2  - Sample Book of Signs\r\nPY  - 2011\r\nPB  - Sample Press\r\nER  - \r\n";

const PUBMED: &str = "\nPMID- 99000001\nDP  - 2019 Mar-Apr\nTI  - Held flexion in 90 hands: a made-up\n      report.\nPG  - 481-5\nVI  - 12\nIP  - 3\n\
LID - 10.5555/fenwater.2019.1 [doi]\nFAU - Quellan, Ada B\nAU  - Quellan AB\nCN  - Fenwater Teaching Clinic\nPT  - Journal Article\nPT  - Comparative Study\n\
JT  - Sample journal of examination\n\nPMID- 99000002\nTI  - Second.\nDP  - 2020\nPT  - Journal Article\n";

const BIBTEX: &str = "@string{sje = \"Sample Journal of Examination\"}\n@article{q19,\n  author = {Quellan, Ada B. and {Fenwater Teaching Clinic} and Cyril van der Tosk},\n\
  title = {Held {F}lexion in 90 Hands \\& more: na{\\\"i}ve readers},\n  journal = sje, year = 2019, volume = {12}, number = 3, pages = {481--485},\n\
  doi = {10.5555/fenwater.2019.1}\n}\n@phdthesis{o11, author={Orrishaw, D.}, title={Signs}, school={University of Fenwater}, year={2011}}\n";

const CSL: &str = r#"[{"type":"journal-article","title":["Held flexion in 90 hands"],"author":[{"family":"Quellan","given":"Ada B."},{"literal":"Fenwater Teaching Clinic"},
{"non-dropping-particle":"van der","family":"Tosk","given":"C."}],"issued":{"date-parts":[[2019,3]]},"container-title":["Sample Journal of Examination"],
"volume":12,"issue":"3","page":"481-485","DOI":"10.5555/Fenwater.2019.1","PMID":99000001,"publisher":"Sample Press"}]"#;

fn read_references(file: &[u8]) -> Result<ReadReferences, Vec<FieldError>> {
    Ok(pruvex_formats::read_references(file, &|_| true).map_err(Faults::into_told)?.unwrap())
}

fn read(text: &str) -> (ReferenceFormat, Vec<Reference>) {
    let read = read_references(text.as_bytes()).unwrap_or_else(|errors| panic!("{errors:?}"));
    (read.format, read.references)
}

fn names(reference: &Reference) -> Vec<String> {
    reference.authors.iter().map(|Author { family, given }| format!("{family}|{given}")).collect()
}

#[test]
fn files_of_every_format_are_recognised_and_read() {
    assert_eq!(pruvex_formats::read_references(RIS.as_bytes(), &|_| false), Ok(None), "it stops when it is told to");
    let (format, ris) = read(RIS);
    assert_eq!((format, ris.len()), (ReferenceFormat::Ris, 2));
    assert_eq!(names(&ris[0]), ["Quellan|Ada B.", "Tosk|C.", "Fenwater Teaching Clinic|"]);
    assert_eq!(ris[0].title, "Held flexion in 90 hands: a made-up report");
    assert_eq!((ris[0].year, ris[0].pages.as_str()), (Some(2019), "481-485"));
    assert_eq!(ris[0].doi, "10.5555/fenwater.2019.1");
    assert_eq!((ris[1].kind, ris[1].container.as_str()), (ReferenceKind::Chapter, "Sample Book of Signs"));

    let (format, pubmed) = read(PUBMED);
    assert_eq!((format, pubmed.len()), (ReferenceFormat::Pubmed, 2));
    assert_eq!(names(&pubmed[0]), ["Quellan|Ada B", "Fenwater Teaching Clinic|"]);
    assert_eq!(pubmed[0].title, "Held flexion in 90 hands: a made-up report");
    assert_eq!((pubmed[0].year, pubmed[0].pages.as_str()), (Some(2019), "481-485"));
    assert_eq!((pubmed[0].doi.as_str(), pubmed[0].pmid.as_str()), ("10.5555/fenwater.2019.1", "99000001"));

    let (format, bibtex) = read(BIBTEX);
    assert_eq!((format, bibtex.len()), (ReferenceFormat::Bibtex, 2));
    assert_eq!(names(&bibtex[0]), ["Quellan|Ada B.", "Fenwater Teaching Clinic|", "van der Tosk|Cyril"]);
    assert_eq!(bibtex[0].title, "Held Flexion in 90 Hands & more: naïve readers");
    assert_eq!((bibtex[0].container.as_str(), bibtex[0].pages.as_str()), ("Sample Journal of Examination", "481-485"));
    assert_eq!((bibtex[1].kind, bibtex[1].publisher.as_str()), (ReferenceKind::Thesis, "University of Fenwater"));

    let (format, csl) = read(CSL);
    assert_eq!((format, csl.len()), (ReferenceFormat::CslJson, 1));
    assert_eq!(names(&csl[0]), ["Quellan|Ada B.", "Fenwater Teaching Clinic|", "van der Tosk|C."]);
    assert_eq!((csl[0].kind, csl[0].year, csl[0].volume.as_str()), (ReferenceKind::JournalArticle, Some(2019), "12"));
    assert_eq!((csl[0].doi.as_str(), csl[0].pmid.as_str()), ("10.5555/fenwater.2019.1", "99000001"));
}

#[test]
fn every_fault_is_named_with_its_entry_and_nothing_is_guessed() {
    let broken =
        RIS.replace("2019/03/04", "in press").replace("TI  - Signs at the wrist\r\n", "").replace("10.5555/F", "F");
    let errors = read_references(broken.as_bytes()).expect_err("two entries are broken");
    let places: Vec<&str> = errors.iter().map(|error| error.field.as_str()).collect();
    assert_eq!(places, ["entries[0].doi", "entries[1].title"], "{errors:?}");
    let one = |bytes: &[u8]| {
        let errors = read_references(bytes).expect_err("this is no file of references");
        assert_eq!(errors.len(), 1, "{errors:?}");
        assert!(!errors[0].remedy.is_empty());
        errors[0].message.clone()
    };
    assert!(one(b"").contains("not one of the formats"));
    assert!(one(b"name,year\nQuellan,2019\n").contains("not one of the formats"));
    assert!(one(b"TY  - JOUR\nTI  - na\xefve\n").contains("Line 2 is not written in UTF-8"));
    assert!(one("TY  - JOUR".encode_utf16().flat_map(u16::to_le_bytes).collect::<Vec<_>>().as_slice()).contains("NUL"));
    assert!(one(b"[]").contains("no reference"));
    assert!(one(b"[{\"title\": 1,").contains("not valid JSON"));
    assert!(one(b"[{\"name\": \"x\"}]").contains("not an item"));
    assert!(one(b"@article{q,\n title = {open\n").contains("cannot be read as BibTeX"));
}

#[test]
fn entries_that_are_linked_say_what_one_of_them_leaves_out() {
    let file = "@proceedings{days, title = {Sample Examination Days}, year = 2018, publisher = {Sample Press}}\n\
        @xdata{people, author = {Quellan, Ada}}\n\
        @inproceedings{q18, title = {Held flexion}, crossref = {days}, xdata = {people}, pages = {3}}\n";
    let (_, references) = read(&file.replace("@xdata{people,", "@xdata{people, title = {None},"));
    let linked = references.iter().find(|reference| reference.title == "Held flexion").unwrap();
    assert_eq!((linked.container.as_str(), linked.year), ("Sample Examination Days", Some(2018)));
    assert_eq!(names(linked), ["Quellan|Ada"]);
}

#[test]
fn texts_that_stand_for_one_another_end() {
    let doubled: String = (1..60).map(|n| format!("@string{{s{n} = s{0} # s{0}}}\n", n - 1)).collect();
    let chain: String = (1..50_000).map(|n| format!("@string{{s{n} = s{}}}\n", n - 1)).collect();
    let round = "@string{s0 = s1}\n@string{s1 = s0}\n@string{s59 = s1}\n@string{s49999 = s1}\n";
    for names in [doubled.as_str(), chain.as_str(), round] {
        for last in ["s59", "s49999"].into_iter().filter(|last| names.contains(&format!("{{{last} "))) {
            let file = format!("@string{{s0 = {{x}}}}\n{names}@article{{a, title = {last}}}\n");
            let errors = read_references(file.as_bytes()).expect_err("it grows beyond measure");
            assert!(errors[0].message.contains("beyond measure"), "{errors:?}");
        }
    }
    // A name that is used everywhere is no fault, nor are entries linked in a circle.
    let many: String =
        (0..2_000).map(|n| format!("@article{{a{n}, title = {{Signs {n}}}, journal = sje}}\n")).collect();
    let (_, read_all) = read(&format!("@string{{sje = \"Sample Journal of Examination\"}}\n{many}"));
    assert_eq!(read_all.len(), 2_000);
    let (_, round) =
        read("@book{a, title = {A}, crossref = {b}, xdata = {a}}\n@book{b, title = {B}, crossref = {a}}\n");
    assert_eq!((round[0].title.as_str(), round[0].container.as_str()), ("A", "B"));
    let deep = format!("@book{{a, title = {}x{}}}", "{".repeat(100_000), "}".repeat(100_000));
    assert!(read_references(deep.as_bytes()).unwrap_err()[0].message.contains("100 deep"));
}

#[test]
fn a_file_of_nothing_but_faults_is_told_in_part() {
    let file = format!("[{}{{}}]", "{},".repeat(1_000_000));
    let errors = read_references(file.as_bytes()).unwrap_err();
    assert_eq!((errors.len(), errors[500].field.as_str()), (501, "file"));
    assert!(errors[500].message.contains("at least 9500 more"), "{:?}", errors[500]);
}

#[test]
fn styles_write_a_reference_as_their_manuals_show_it() {
    let reference = read(CSL).1.remove(0);
    let cited = |style| cite(style, &[&reference]).remove(0);
    assert_eq!(
        cited(CitationStyle::Ama),
        "Quellan AB, Fenwater Teaching Clinic, van der Tosk C. Held flexion in 90 hands. Sample Journal of Examination. \
         2019;12(3):481-485. doi:10.5555/fenwater.2019.1"
    );
    assert_eq!(
        cited(CitationStyle::Apa),
        "Quellan, A. B., Fenwater Teaching Clinic, & van der Tosk, C. (2019). Held flexion in 90 hands. Sample Journal of \
         Examination, 12(3), 481–485. https://doi.org/10.5555/fenwater.2019.1"
    );
}

/// Text as titles and names hold it, signs of the formats among them.
fn words(word: &'static str) -> impl Strategy<Value = String> {
    proptest::collection::vec(word, 1..5)
        .prop_map(|words| words.join(" "))
        .prop_filter("holds a letter", |text| text.starts_with(|c: char| c.is_alphabetic()) && !text.ends_with('.'))
}

fn reference() -> impl Strategy<Value = Reference> {
    let name = "[A-Z][a-zéüø]{2,9}(-[A-Z][a-z]{2,6})?";
    let author = (name, "[A-Z]\\.( [A-Z]\\.)?").prop_map(|(family, given)| Author { family, given });
    let institution =
        "[A-Z][a-z]{2,8} (Clinic|Survey|Group)".prop_map(|family| Author { family, given: String::new() });
    let authors = proptest::collection::vec(prop_oneof![3 => author, 1 => institution], 0..5);
    let texts = (
        words("[A-Za-zäöüßéñøčł0-9&%:,+_#$;()'/?=]{1,9}"),
        words("[A-Za-zäöü&:]{1,9}"),
        "([0-9]{1,3})?",
        "([0-9]{1,2})?",
        "([1-9][0-9]{0,2}-[1-9][0-9]{3})?",
    );
    let identifiers =
        (proptest::option::of("10\\.5555/[a-z0-9]{1,8}\\.[0-9]{1,3}"), proptest::option::of(1u32..99_999_999));
    (authors, texts, proptest::option::of(1900u16..2100), identifiers).prop_map(
        |(authors, (title, container, volume, issue, pages), year, (doi, pmid))| {
            let input = ReferenceInput {
                kind: ReferenceKind::JournalArticle,
                title,
                authors,
                year: year.map(f64::from),
                container,
                volume,
                issue,
                pages,
                doi: doi.unwrap_or_default(),
                pmid: pmid.map(|number| number.to_string()).unwrap_or_default(),
                ..ReferenceInput::default()
            };
            Reference::check(&input).unwrap()
        },
    )
}

proptest! {
    #[test]
    fn what_is_written_comes_back_the_same(references in proptest::collection::vec(reference(), 1..5)) {
        for format in ReferenceFormat::ALL {
            let written = write_references(format, &references);
            let read = read_references(written.as_bytes());
            prop_assert_eq!(read.as_ref().map(|read| &read.references), Ok(&references), "{}", written);
        }
    }

    #[test]
    fn no_file_makes_the_readers_fall_over(noise in "\\PC{0,60}", start in 0usize..4, cut in 0usize..600) {
        let file = [RIS, PUBMED, BIBTEX, CSL][start];
        let cut = (0..=cut.min(file.len())).rev().find(|at| file.is_char_boundary(*at)).unwrap_or_default();
        for text in [format!("{}{noise}", &file[..cut]), format!("{noise}\n{}", &file[cut..])] {
            if let Ok(read) = read_references(text.as_bytes()) {
                prop_assert!(!read.references.is_empty());
                prop_assert!(!cite(CitationStyle::Apa, &read.references.iter().collect::<Vec<_>>()).is_empty());
            }
        }
    }
}

#[test]
fn kinds_survive_every_format_that_has_them() {
    let of = |kind| {
        let texts = ["Signs", "Sample Press"].map(str::to_owned);
        let [title, publisher] = texts;
        Reference::check(&ReferenceInput { kind, title, publisher, ..ReferenceInput::default() }).unwrap()
    };
    let all: Vec<Reference> = ReferenceKind::ALL.into_iter().map(of).collect();
    for format in ReferenceFormat::ALL {
        let (_, back) = read(&write_references(format, &all));
        assert_eq!(back, all, "{format:?}");
    }
}
