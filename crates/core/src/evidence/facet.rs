//! What results can be told apart by, and what they say of it.

use serde::de::DeserializeOwned;
use serde::{Deserialize, Serialize, Serializer};
use serde_json::Value;

use super::appraisal::Judgement;
use super::result::Unit;
use super::setup::{DataSource, Design, Recruitment};
use crate::TestId;
use crate::catalogue::name_key;
use crate::population::{Activity, CareSetting, Course, Wakefulness};

/// What results can be told apart by.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Facet {
    /// Which test.
    Test,
    /// Which variant of it.
    Variant,
    /// What counted as positive.
    Criterion,
    /// Which stage of the condition.
    Stage,
    /// What decided who has it.
    ReferenceStandard,
    /// People or sides counted.
    Unit,
    /// How people came into the study.
    Design,
    /// How they were chosen.
    Recruitment,
    /// Where they were examined.
    Setting,
    /// How active they are.
    Activity,
    /// How long they have had it.
    Course,
    /// Whether they could guard.
    State,
    /// Where its figures are from.
    Source,
    /// Risk of bias over all domains.
    RiskOfBias,
}

impl Facet {
    /// All of them, those of the result first.
    pub const ALL: [Self; 14] = [
        Self::Test,
        Self::Variant,
        Self::Criterion,
        Self::Stage,
        Self::ReferenceStandard,
        Self::Unit,
        Self::Design,
        Self::Recruitment,
        Self::Setting,
        Self::Activity,
        Self::Course,
        Self::State,
        Self::Source,
        Self::RiskOfBias,
    ];
}

/// Words as they were first written; case and runs of white space make no difference.
#[derive(Debug, Clone)]
pub struct Words {
    key: String,
    written: String,
}

impl Words {
    fn new(written: &str) -> Option<Self> {
        let key = name_key(written);
        (!key.is_empty()).then(|| Self { key, written: written.to_owned() })
    }
}

impl PartialEq for Words {
    fn eq(&self, other: &Self) -> bool {
        self.key == other.key
    }
}

impl Eq for Words {}

impl std::hash::Hash for Words {
    fn hash<H: std::hash::Hasher>(&self, state: &mut H) {
        self.key.hash(state);
    }
}

/// What a result says of a facet.
#[derive(Debug, Clone, PartialEq, Eq, Hash)]
pub enum FacetValue {
    /// A test.
    Test(TestId),
    /// A variant, a criterion, a stage or a reference standard, in the words of the report.
    Words(Words),
    /// What was counted.
    Unit(Unit),
    /// How people came into the study.
    Design(Design),
    /// How they were chosen.
    Recruitment(Recruitment),
    /// Where they were examined.
    Setting(CareSetting),
    /// How active they are.
    Activity(Activity),
    /// How long they have had it.
    Course(Course),
    /// Whether they could guard.
    State(Wakefulness),
    /// Where its figures are from.
    Source(DataSource),
    /// Risk of bias over all domains.
    RiskOfBias(Judgement),
}

impl FacetValue {
    /// Words, unless there are none.
    #[must_use]
    pub fn words(written: &str) -> Option<Self> {
        Words::new(written).map(Self::Words)
    }

    /// Reads what [`FacetValue::code`] writes; `None` when it is no value of this facet.
    #[must_use]
    pub fn read(facet: Facet, code: &str) -> Option<Self> {
        fn coded<T: DeserializeOwned>(code: &str) -> Option<T> {
            serde_json::from_value(Value::String(code.to_owned())).ok()
        }
        match facet {
            Facet::Test => coded(code).map(Self::Test),
            Facet::Variant | Facet::Criterion | Facet::Stage | Facet::ReferenceStandard => Self::words(code),
            Facet::Unit => coded(code).map(Self::Unit),
            Facet::Design => coded(code).map(Self::Design),
            Facet::Recruitment => coded(code).map(Self::Recruitment),
            Facet::Setting => coded(code).map(Self::Setting),
            Facet::Activity => coded(code).map(Self::Activity),
            Facet::Course => coded(code).map(Self::Course),
            Facet::State => coded(code).map(Self::State),
            Facet::Source => coded(code).map(Self::Source),
            Facet::RiskOfBias => coded(code).map(Self::RiskOfBias),
        }
    }

    /// As text: words as they were first written, an id, or the code of a choice.
    #[must_use]
    pub fn code(&self) -> String {
        fn code(value: &impl Serialize) -> String {
            serde_json::to_value(value).ok().and_then(|it| it.as_str().map(str::to_owned)).unwrap_or_default()
        }
        match self {
            Self::Test(id) => id.to_string(),
            Self::Words(words) => words.written.clone(),
            Self::Unit(it) => code(it),
            Self::Design(it) => code(it),
            Self::Recruitment(it) => code(it),
            Self::Setting(it) => code(it),
            Self::Activity(it) => code(it),
            Self::Course(it) => code(it),
            Self::State(it) => code(it),
            Self::Source(it) => code(it),
            Self::RiskOfBias(it) => code(it),
        }
    }
}

impl Serialize for FacetValue {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.serialize_str(&self.code())
    }
}

/// Values of facets as they are written in JSON: as texts, an empty one for "not said".
pub(super) mod chosen {
    use std::collections::BTreeMap;

    use serde::de::Error;
    use serde::{Deserialize, Deserializer, Serialize, Serializer};

    use super::{Facet, FacetValue};

    pub fn serialize<S: Serializer>(
        chosen: &BTreeMap<Facet, Vec<Option<FacetValue>>>,
        serializer: S,
    ) -> Result<S::Ok, S::Error> {
        let code = |value: &Option<FacetValue>| value.as_ref().map(FacetValue::code).unwrap_or_default();
        let texts: BTreeMap<Facet, Vec<String>> =
            chosen.iter().map(|(facet, values)| (*facet, values.iter().map(code).collect())).collect();
        texts.serialize(serializer)
    }

    pub fn deserialize<'de, D: Deserializer<'de>>(
        deserializer: D,
    ) -> Result<BTreeMap<Facet, Vec<Option<FacetValue>>>, D::Error> {
        let texts = BTreeMap::<Facet, Vec<String>>::deserialize(deserializer)?;
        let value = |facet: Facet, text: String| {
            if text.is_empty() {
                return Ok(None);
            }
            let unknown = || D::Error::custom(format!("{text:?} is no value of this facet ({facet:?})"));
            FacetValue::read(facet, &text).map(Some).ok_or_else(unknown)
        };
        texts
            .into_iter()
            .map(|(facet, values)| {
                Ok((facet, values.into_iter().map(|it| value(facet, it)).collect::<Result<_, _>>()?))
            })
            .collect()
    }
}
