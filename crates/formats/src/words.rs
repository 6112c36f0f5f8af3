//! The words of the interface for codes, so that paper, screen and command line say the same.

use std::sync::LazyLock;

use pruvex_core::Probability;
use pruvex_core::catalogue::Region;
use pruvex_core::pooling::{ArmName, Warning};
use serde::Serialize;
use serde_json::Value;

const CODES: &str = include_str!("../../../web/src/shared/codes.json");

// Read once: a table of records asks for words a hundred thousand times.
static READ: LazyLock<Value> = LazyLock::new(|| serde_json::from_str(CODES).unwrap_or_default());

pub(crate) fn codes() -> &'static Value {
    &READ
}

/// A region as people call it.
#[must_use]
pub fn region_name(region: Region) -> String {
    codes()["regions"][region.code()].as_str().unwrap_or(region.code()).to_owned()
}

/// The words for a code of a group such as `models`; the code itself where there are none.
#[must_use]
pub fn code_words(group: &str, code: impl Serialize) -> String {
    let code = serde_json::to_value(code).ok().and_then(|code| code.as_str().map(str::to_owned)).unwrap_or_default();
    codes()[group][&code].as_str().map(str::to_owned).unwrap_or(code)
}

/// What has to be said beside a pooled answer, as a sentence; shares are written as `percent` says.
#[must_use]
pub fn warning_words(warning: &Warning, percent: impl Fn(Probability) -> String) -> String {
    let arm = |arm: ArmName| match arm {
        ArmName::Diseased => "_diseased",
        ArmName::NonDiseased => "_non_diseased",
    };
    let one = |n: usize| if n == 1 { "_one" } else { "" };
    let (end, n, upper) = match warning {
        Warning::AtBoundary { boundary } => return code_words("boundaries", boundary),
        Warning::FewStudies { both_arms: n }
        | Warning::OneArmedStudies { count: n }
        | Warning::HalfAdded { studies: n } => (one(*n), n.to_string(), None),
        Warning::PerfectArm { arm: of, n, upper } => (arm(*of), n.to_string(), Some(*upper)),
        Warning::NoneCorrect { n, upper, .. } => ("", n.to_string(), Some(*upper)),
        Warning::NoArm { arm: of } => (arm(*of), String::new(), None),
        Warning::CombinedEnds
        | Warning::VarianceNotIdentified
        | Warning::ProfileNotFollowed
        | Warning::QuadratureLimit { .. } => ("", String::new(), None),
    };
    let told = serde_json::to_value(warning).unwrap_or_default();
    let code = told["code"].as_str().unwrap_or_default();
    let upper = upper.map(percent).unwrap_or_default();
    code_words("pool_warnings", format!("{code}{end}")).replace("{n}", &n).replace("{upper}", &upper)
}

#[cfg(test)]
mod tests {
    use pruvex_core::pooling::{ArmName, Boundary, Model, Reason};

    use super::*;

    #[test]
    fn every_warning_is_a_sentence_without_a_gap() {
        let upper = Probability::new(0.14).unwrap();
        let mut warnings = vec![
            Warning::CombinedEnds,
            Warning::VarianceNotIdentified,
            Warning::ProfileNotFollowed,
            Warning::QuadratureLimit { nodes: 91 },
            Warning::AtBoundary { boundary: Boundary::RhoPlusOne },
        ];
        warnings.extend([1, 3].into_iter().flat_map(|n| {
            [
                Warning::FewStudies { both_arms: n },
                Warning::OneArmedStudies { count: n },
                Warning::HalfAdded { studies: n },
            ]
        }));
        warnings.extend([ArmName::Diseased, ArmName::NonDiseased].into_iter().flat_map(|arm| {
            [
                Warning::PerfectArm { arm, n: 22, upper },
                Warning::NoneCorrect { arm, n: 22, upper },
                Warning::NoArm { arm },
            ]
        }));
        for warning in warnings {
            let words = warning_words(&warning, |p| format!("{} %", 100.0 * p.get()));
            assert!(
                words.ends_with('.') && words.len() > 20 && !words.contains(['{', '}', '_']),
                "{warning:?}: {words}"
            );
        }
        assert_eq!(code_words("models", Model::Fixed), "Fixed effect (no variance between studies)");
        assert_eq!(code_words("reasons", Reason::Requested), "it was asked for");
    }
}
