//! References: what is refused, what is tidied, and which two are one work.

use proptest::prelude::*;
use pruvex_core::evidence::{
    Author, Identifier, Likeness, Matcher, Reference, ReferenceInput, likeness, parse_identifier,
};

fn reference(family: &str, year: u16, title: &str) -> Reference {
    let authors = vec![Author { family: family.to_owned(), given: "A.".to_owned() }];
    let year = Some(f64::from(year));
    Reference::check(&ReferenceInput { title: title.to_owned(), authors, year, ..ReferenceInput::default() }).unwrap()
}

#[test]
fn identifiers_are_read_with_whatever_stands_around_them() {
    for text in ["10.5555/AB.1(2)", " https://doi.org/10.5555/ab.1(2) ", "doi: 10.5555/ab.1(2)"] {
        assert_eq!(parse_identifier(text), Ok(Identifier::Doi("10.5555/ab.1(2)".to_owned())), "{text}");
    }
    for text in ["99000001", "PMID: 99000001", "pmid99000001", "099000001"] {
        let expected = if text.len() == 9 { None } else { Some(Identifier::Pmid("99000001".to_owned())) };
        assert_eq!(parse_identifier(text).ok(), expected, "{text}");
    }
    for text in
        ["", "10.5555", "10.5555/", "11.5555/1", "10.55/1", "10.5555/a b", "PMID", "0", "123456789", "10.x555/1"]
    {
        assert!(parse_identifier(text).is_err(), "{text}");
    }
}

#[test]
fn every_fault_of_a_reference_is_named() {
    let input = ReferenceInput {
        title: "  ".to_owned(),
        authors: vec![Author { family: String::new(), given: "Ada".to_owned() }, Author::default()],
        year: Some(2019.5),
        doi: "fenwater".to_owned(),
        pmid: "12a".to_owned(),
        url: "javascript:alert(1)".to_owned(),
        volume: "1".repeat(51),
        ..ReferenceInput::default()
    };
    let fields: Vec<String> = Reference::check(&input).unwrap_err().into_iter().map(|error| error.field).collect();
    assert_eq!(fields, ["volume", "title", "authors[0].family", "year", "doi", "pmid", "url"]);
    for year in [f64::NAN, f64::INFINITY, 1499.0, 2101.0, -1.0] {
        let title = "Signs".to_owned();
        assert!(Reference::check(&ReferenceInput { title, year: Some(year), ..ReferenceInput::default() }).is_err());
    }
}

#[test]
fn labels_name_the_first_authors() {
    let mut work = reference("Quellan", 2019, "Signs at the wrist");
    assert_eq!(work.label(), "Quellan 2019");
    work.authors.push(Author { family: "Tosk".to_owned(), given: String::new() });
    assert_eq!(work.label(), "Quellan and Tosk 2019");
    work.authors.push(Author { family: "Orrishaw".to_owned(), given: String::new() });
    assert_eq!(work.label(), "Quellan et al. 2019");
    work.authors.clear();
    work.year = None;
    assert_eq!(work.label(), "Signs at the wrist");
}

#[test]
fn one_work_is_known_by_identifier_title_and_year() {
    let one = reference("Quellan", 2019, "Held flexion of the wrist in 90 hands: a made-up report");
    let similar = |family, year, title| likeness(&one, &reference(family, year, title));
    let found = similar("Quellan", 2020, "Held flexion of the wrist in 90 hands – a madeup report");
    assert!(matches!(found, Some(Likeness::SimilarTitle { similarity }) if similarity > 0.9), "{found:?}");
    assert_eq!(similar("Quellan", 2021, &one.title), None, "two years apart");
    assert_eq!(similar("Quellan", 2019, "Held extension of the elbow in 40 arms"), None);
    assert!(similar("Tosk", 2019, &one.title).is_some(), "the very title, by somebody else");
    assert_eq!(similar("Tosk", 2019, "Held flexion of the wrist in 91 hands: a madeup report"), None);
    let mut same = reference("Tosk", 1999, "Quite another title");
    same.doi = "10.5555/1".to_owned();
    let with_doi = Reference { doi: "10.5555/1".to_owned(), ..one.clone() };
    assert_eq!(likeness(&with_doi, &same), Some(Likeness::SameDoi));
    same.doi.clear();
    same.pmid = "7".to_owned();
    assert_eq!(likeness(&Reference { pmid: "7".to_owned(), ..one }, &same), Some(Likeness::SamePmid));
}

proptest! {
    /// The matcher looks at few works; it must find what looking at all of them finds.
    #[test]
    fn the_matcher_finds_a_title_with_a_typing_error(
        titles in proptest::collection::hash_set("[a-z]{3,9}( [a-z]{3,9}){5,8}", 2..20),
        chosen in any::<proptest::sample::Index>(),
        at in any::<proptest::sample::Index>(),
    ) {
        let titles: Vec<String> = titles.into_iter().collect();
        let mut matcher = Matcher::default();
        for (index, title) in titles.iter().enumerate() {
            matcher.add(index, reference("Quellan", 2019, title));
        }
        let wanted = &titles[chosen.index(titles.len())];
        let place = at.index(wanted.len());
        let mistyped: String = wanted.chars().enumerate().filter(|(index, _)| *index != place).map(|(_, c)| c).collect();
        let work = reference("Quellan", 2019, &mistyped);
        let all = titles.iter().any(|title| likeness(&work, &reference("Quellan", 2019, title)).is_some());
        let found = matcher.find(&work);
        prop_assert_eq!(found.is_some(), all);
        if let Some((_, known, likeness)) = found {
            prop_assert!(likeness.rank() > 0.9, "{} {}", known.title, mistyped);
        }
    }

    /// Who is compared with whom makes no difference, and everything is like itself.
    #[test]
    fn likeness_is_mutual(
        one in "[a-zé]{3,9}( [a-z]{3,9}){0,6}",
        other in "[a-zé]{3,9}( [a-z]{3,9}){0,6}",
        years in (1990u16..1994, 1990u16..1994),
        families in ("[AB]", "[AB]"),
    ) {
        let (one, other) = (reference(&families.0, years.0, &one), reference(&families.1, years.1, &other));
        prop_assert_eq!(likeness(&one, &other), likeness(&other, &one));
        prop_assert_eq!(likeness(&one, &one), Some(Likeness::SimilarTitle { similarity: 1.0 }));
        let upper = Reference { title: one.title.to_uppercase().replace(' ', " - "), ..one.clone() };
        prop_assert!(likeness(&one, &upper).is_some(), "marks and cases make no other work");
    }

    /// What is accepted is in its final form: checking it again changes nothing.
    #[test]
    fn a_checked_reference_stays_as_it_is(
        title in "\\PC{1,40}",
        name in "\\PC{0,20}",
        pages in "[0-9–—-]{0,9}",
        doi in proptest::option::of("(https://doi.org/|doi: ?)?10\\.[0-9]{4}/[A-Za-z0-9()./]{1,9}"),
        year in proptest::option::of(1400.0f64..2200.0),
    ) {
        let authors = vec![Author { family: name.clone(), given: name }, Author::default()];
        let doi = doi.unwrap_or_default();
        let input = ReferenceInput { title, authors, pages, doi, year: year.map(f64::round), ..ReferenceInput::default() };
        if let Ok(checked) = Reference::check(&input) {
            let again: ReferenceInput = serde_json::from_value(serde_json::to_value(&checked).unwrap()).unwrap();
            prop_assert_eq!(Reference::check(&again), Ok(checked));
        }
    }
}
