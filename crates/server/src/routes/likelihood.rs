//! What results mean at a pre-test probability.

use pruvex_core::likelihood::{NaturalFrequencies, natural_frequencies, post_test_interval};
use pruvex_core::{Estimate, Probability, Ratio};
use rocket::post;
use rocket::serde::json::Json;
use rocket::serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::body::JsonBody;
use crate::people::Reader;
use crate::problem::{ApiError, Problem};

/// The question: how probable is the condition before testing, and which tests are asked about.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(crate = "rocket::serde", deny_unknown_fields)]
pub(crate) struct Question {
    /// Pre-test probability.
    pre_test: Probability,
    /// At most 5 000 tests.
    tests: Vec<QuestionTest>,
}

/// A test's summary point, as the pool gave it.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(crate = "rocket::serde", deny_unknown_fields)]
pub(crate) struct QuestionTest {
    /// Comes back with the answer.
    key: String,
    sensitivity: Option<Estimate<Probability>>,
    specificity: Option<Estimate<Probability>>,
    lr_positive: Option<Estimate<Ratio>>,
    lr_negative: Option<Estimate<Ratio>>,
}

/// What a result of one test means.
#[derive(Debug, Serialize, ToSchema)]
#[serde(crate = "rocket::serde")]
pub(crate) struct Answer {
    key: String,
    /// Probability after a positive result; `null` when not estimable.
    after_positive: Option<Estimate<Probability>>,
    /// Probability after a negative result.
    after_negative: Option<Estimate<Probability>>,
    /// The same in whole people out of 1 000.
    frequencies: Option<NaturalFrequencies>,
}

/// Bayes' rule for many tests at once.
#[utoipa::path(context_path = "/api/v1", tag = "likelihood", request_body = Question,
    responses((status = 200, body = Vec<Answer>), (status = 400, body = Problem)))]
#[post("/likelihood/answers", data = "<question>")]
pub(crate) fn answer(_by: Reader, question: JsonBody<Question>) -> Result<Json<Vec<Answer>>, ApiError> {
    let Question { pre_test, tests } = question.0;
    if tests.len() > 5_000 {
        let message = "at most 5000 tests are answered at once".to_owned();
        return Err(ApiError::Malformed { path: "tests".to_owned(), message });
    }
    let answer = |test: QuestionTest| Answer {
        key: test.key,
        after_positive: test.lr_positive.and_then(|lr| post_test_interval(pre_test, lr)),
        after_negative: test.lr_negative.and_then(|lr| post_test_interval(pre_test, lr)),
        frequencies: test
            .sensitivity
            .zip(test.specificity)
            .map(|(se, sp)| natural_frequencies(1_000, pre_test, se.estimate, sp.estimate)),
    };
    Ok(Json(tests.into_iter().map(answer).collect()))
}
