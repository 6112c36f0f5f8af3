//! Appraisals: which questions there are, what their answers suggest, and what must be explained.

use std::collections::{BTreeMap, HashSet};

use proptest::prelude::*;
use pruvex_core::evidence::{
    Appraisal, AppraisalInput, Aspect, Domain, DomainAppraisal, Judgement, SignallingAnswer, SignallingQuestion,
    suggestions,
};
use serde_json::json;

const BOTH: [Aspect; 2] = [Aspect::Accuracy, Aspect::Agreement];

fn check(aspect: Aspect, given: serde_json::Value) -> Result<Appraisal, Vec<String>> {
    let input: AppraisalInput = serde_json::from_value(json!({ "domains": given })).unwrap();
    Appraisal::check(aspect, &input).map_err(|errors| errors.into_iter().map(|error| error.field).collect())
}

#[test]
fn every_domain_asks_questions_under_the_codes_of_its_files() {
    for aspect in BOTH {
        assert_eq!(aspect.domains().len(), 4);
        let mut seen = HashSet::new();
        for domain in aspect.domains() {
            assert_eq!(serde_json::to_value(domain).unwrap(), json!(domain.code()));
            assert!(!aspect.questions(*domain).is_empty(), "{domain:?}");
            for question in aspect.questions(*domain) {
                assert_eq!(serde_json::to_value(question).unwrap(), json!(question.code()));
                assert!(seen.insert(question), "{question:?} is asked once");
            }
        }
    }
    assert!(Aspect::Accuracy.questions(Domain::Examiners).is_empty());
}

#[test]
fn the_answers_suggest_a_judgement_and_another_one_is_explained() {
    let questions = Aspect::Accuracy.questions(Domain::IndexTest);
    let of = |answers: &[(SignallingQuestion, SignallingAnswer)]| {
        DomainAppraisal { answers: answers.iter().copied().collect(), ..DomainAppraisal::default() }
            .suggested(questions)
    };
    use SignallingAnswer::{No, NotApplicable, Unclear, Yes};
    use SignallingQuestion::{CriterionFixed as Fixed, TestReadBlind as Blind};
    assert_eq!(of(&[]), None);
    assert_eq!(of(&[(Blind, Yes)]), Some(Judgement::Unclear), "one is not answered yet");
    assert_eq!(of(&[(Blind, Yes), (Fixed, NotApplicable)]), Some(Judgement::Low));
    assert_eq!(of(&[(Blind, Unclear), (Fixed, Yes)]), Some(Judgement::Unclear));
    assert_eq!(of(&[(Blind, Unclear), (Fixed, No)]), Some(Judgement::High));
    let given = json!({ "domains": { "index_test": { "answers": { "test_read_blind": "no" } }, "flow_timing": {} } });
    let suggested = suggestions(Aspect::Accuracy, &serde_json::from_value(given).unwrap());
    assert_eq!(suggested, BTreeMap::from([(Domain::IndexTest, Judgement::High)]), "of what was answered");

    let blind = json!({ "test_read_blind": "no", "criterion_fixed": "yes" });
    let domain =
        |risk: &str, reason: &str| json!({ "index_test": { "answers": blind, "risk": risk, "reason": reason } });
    let fault = Err(vec!["domains.index_test.reason".to_owned()]);
    assert_eq!(check(Aspect::Accuracy, domain("low", " ")).map(drop), fault);
    assert_eq!(check(Aspect::Accuracy, domain("high", "")).map(drop), fault);
    assert!(check(Aspect::Accuracy, domain("low", "A gauge was read; nobody could lean on it.")).is_ok());
    let unknown = json!({ "patient_selection": { "concern": "high" } });
    assert_eq!(check(Aspect::Accuracy, unknown).map(drop), Err(vec!["domains.patient_selection.reason".to_owned()]));
}

#[test]
fn a_test_may_be_part_of_its_own_reference_standard() {
    let said =
        |answers: serde_json::Value| json!({ "reference_standard": { "answers": answers, "reason": "As printed." } });
    let checked = |answers| check(Aspect::Accuracy, said(answers)).unwrap();
    let before = json!({ "standard_likely_right": "yes", "standard_read_blind": "yes" });
    assert!(!checked(before.clone()).includes_test());
    let suggested = |answers| {
        let given = serde_json::from_value(json!({ "domains": said(answers) })).unwrap();
        suggestions(Aspect::Accuracy, &given)[&Domain::ReferenceStandard]
    };
    assert_eq!(suggested(before), Judgement::Low, "what was judged before the question was asked stays");
    assert!(checked(json!({ "standard_without_test": "no" })).includes_test());
    assert_eq!(suggested(json!({ "standard_without_test": "no" })), Judgement::High);
}

#[test]
fn what_belongs_to_the_other_aspect_is_named() {
    let given = json!({ "examiners": { "risk": "low" }, "index_test": { "answers": { "order_varied": "yes" } },
        "flow_timing": { "risk": "low", "concern": "low" } });
    let expected = ["domains.index_test.answers.order_varied", "domains.flow_timing.concern", "domains.examiners"]
        .map(str::to_owned);
    assert_eq!(check(Aspect::Accuracy, given).map(drop), Err(expected.to_vec()));
    assert!(serde_json::from_value::<AppraisalInput>(json!({ "domains": { "luck": {} } })).is_err());
    let empty = check(Aspect::Agreement, json!({ "examiners": { "reason": "  " } })).unwrap();
    assert!(empty.written().domains.is_empty(), "nothing is said");
}

#[test]
fn the_whole_is_as_weak_as_its_weakest_domain() {
    let overall = |risks: [Option<Judgement>; 4]| {
        let domains = Aspect::Accuracy.domains().iter().zip(risks).map(|(domain, risk)| {
            (*domain, DomainAppraisal { risk, reason: "Because.".to_owned(), ..DomainAppraisal::default() })
        });
        let input = AppraisalInput { domains: domains.collect() };
        Appraisal::check(Aspect::Accuracy, &input).unwrap().overall(Aspect::Accuracy)
    };
    let [low, unclear, high] = [Judgement::Low, Judgement::Unclear, Judgement::High].map(Some);
    assert_eq!(overall([low, low, low, low]), low);
    assert_eq!(overall([low, unclear, low, low]), unclear);
    assert_eq!(overall([low, unclear, None, low]), None);
    assert_eq!(overall([None, unclear, None, high]), high);
}

proptest! {
    /// What is accepted is in its final form, and no answer is lost.
    #[test]
    fn a_checked_appraisal_stays_as_it_is(
        picks in proptest::collection::vec((0usize..4, 0usize..5, 0usize..4), 0..12),
        risks in proptest::collection::vec((0usize..4, 0usize..3), 0..4),
        agreement in any::<bool>(),
    ) {
        let aspect = BOTH[usize::from(agreement)];
        let mut domains: BTreeMap<Domain, DomainAppraisal> = BTreeMap::new();
        for (domain, question, answer) in picks {
            let domain = aspect.domains()[domain];
            let questions = aspect.questions(domain);
            let answer = [SignallingAnswer::Yes, SignallingAnswer::No, SignallingAnswer::Unclear, SignallingAnswer::NotApplicable][answer];
            domains.entry(domain).or_default().answers.insert(questions[question % questions.len()], answer);
        }
        for (domain, risk) in risks {
            let of = domains.entry(aspect.domains()[domain]).or_default();
            of.risk = Some([Judgement::Low, Judgement::Unclear, Judgement::High][risk]);
            of.reason = " Said in the methods. ".to_owned();
        }
        let given = AppraisalInput { domains };
        let checked = Appraisal::check(aspect, &given).unwrap();
        prop_assert_eq!(Appraisal::check(aspect, checked.written()), Ok(checked.clone()));
        let json = serde_json::to_value(&checked).unwrap();
        prop_assert_eq!(&serde_json::from_value::<AppraisalInput>(json).unwrap(), checked.written());
        for (domain, said) in &given.domains {
            prop_assert_eq!(&checked.written().domains[domain].answers, &said.answers);
        }
    }
}
