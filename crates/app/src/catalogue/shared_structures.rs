//! What makes the results of two tests depend on each other.

use std::collections::HashSet;

use pruvex_core::catalogue::{Purpose, name_key};
use serde::Serialize;
use utoipa::ToSchema;

use super::{Catalogue, TestRow};

/// What two tests have in common, so that their results depend on each other.
#[derive(Debug, Serialize, ToSchema)]
pub struct SharedStructures {
    /// The two, by position.
    tests: [usize; 2],
    /// Structures that both load.
    structures: Vec<String>,
    /// What both look for, such as the familiar pain; `null` where each looks for something else.
    purpose: Option<Purpose>,
}

/// Pairs of these tests that load the same structures.
pub(crate) fn shared_structures(tests: &[&TestRow], catalogue: &Catalogue) -> Vec<SharedStructures> {
    let keys = |row: &TestRow| row.targets.iter().map(|target| target.key.clone()).collect::<HashSet<String>>();
    let name = |key: &String| {
        let known = catalogue.structures.iter().map(|record| &record.structure.name);
        known.into_iter().find(|name| name_key(name) == *key).unwrap_or(key).clone()
    };
    let mut shared = Vec::new();
    for second in 1..tests.len() {
        for first in 0..second {
            let (one, other) = (tests[first], tests[second]);
            let mut structures: Vec<String> = keys(one).intersection(&keys(other)).map(name).collect();
            structures.sort();
            if !structures.is_empty() {
                let purpose = (one.purpose == other.purpose).then_some(one.purpose);
                shared.push(SharedStructures { tests: [first, second], structures, purpose });
            }
        }
    }
    shared
}
