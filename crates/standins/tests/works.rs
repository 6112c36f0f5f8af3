//! The works that the registry knows: made up, all of them, and told apart by their identifiers. `script/start` builds this test along
//! with the program: with any test among what is built, Cargo chooses the packages' features as for all tests, and builds nothing twice.

use std::collections::HashSet;

use serde_json::Value;

#[test]
fn works_are_made_up_and_told_apart() {
    let works: Vec<Value> = serde_json::from_str(include_str!("../data/works.json")).expect("a list of works");
    let mut seen = HashSet::new();
    for work in &works {
        let doi = work["DOI"].as_str().expect("a DOI");
        assert!(doi.starts_with("10.5555/"), "{doi} is not of the prefix kept for examples");
        assert!(seen.insert(doi.to_lowercase()), "{doi} stands twice");
        if let Some(number) = work["PMID"].as_str() {
            assert!(number.starts_with("99") && seen.insert(number.to_owned()), "{number}");
        }
    }
}
