//! A test as it stands in the list.

use std::cmp::Ordering;
use std::collections::BTreeSet;

use pruvex_core::catalogue::{Basis, IndicationKind, LoadRole, Position, Purpose, Region, Sheet, Status, name_key};
use pruvex_core::pooling::{JointShape, PooledLevelRatio, Summary, Warning};
use pruvex_core::{Estimate, Ratio, TestId};
use pruvex_store::catalogue::TestRecord;
use serde::Serialize;
use utoipa::ToSchema;

use crate::pooling::{Backed, Evidence, Standing, figures_version};

/// One row of the list.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct TestRow {
    pub id: TestId,
    pub name: String,
    pub aliases: Vec<String>,
    pub region: Region,
    pub purpose: Purpose,
    /// Of the basic examination; `null` for a special test.
    pub basis: Option<Basis>,
    /// The condition that its figures are about.
    pub condition: String,
    /// Whether that is the leading one of its sheet.
    pub leading: bool,
    /// What else its sheet shows.
    pub other_conditions: Vec<String>,
    pub positive_finding: String,
    /// How the patient is placed in the taught variant.
    pub position: Option<Position>,
    /// What the taught variant needs.
    pub equipment: Vec<String>,
    /// How irritating it is, 0 to 3.
    pub irritation: Option<f64>,
    /// Studies that count.
    pub studies: usize,
    /// People in them.
    pub patients: u64,
    pub evidence: Evidence,
    /// Where the sheet stands.
    pub status: Status,
    /// How many things the checks found; 0 for those who see no drafts.
    pub findings: usize,
    /// The sheet came with sample data, or at least one study behind its figures is made up.
    pub sample: bool,
    /// `null` when not studied.
    pub summary: Option<Summary>,
    /// Version of these figures: another one as soon as they are others.
    pub figures: String,
    /// How these figures stand.
    pub standing: Standing,
    /// Prediction interval of LR+: where the true ratio of a new study is expected. `null` with fewer than three studies.
    pub ahead_positive: Option<Estimate<Ratio>>,
    /// The same of LR-.
    pub ahead_negative: Option<Estimate<Ratio>>,
    /// What each level of the finding is worth, the most normal first; empty where no studies tell.
    pub levels: Vec<PooledLevelRatio>,
    /// Studies behind that.
    pub level_studies: usize,
    /// What must be said beside the figures.
    pub warnings: Vec<Warning>,
    /// What is known of sensitivity and specificity together.
    #[serde(skip)]
    pub(crate) joint: Option<JointShape>,
    /// Compared form of its name.
    #[serde(skip)]
    pub(crate) key: String,
    /// Compared form of the condition's.
    #[serde(skip)]
    pub(crate) condition_key: String,
    #[serde(skip)]
    pub(crate) targets: Vec<RowTarget>,
    #[serde(skip)]
    pub(crate) placing: Placing,
    /// The row as it is answered, written once: a list of hundreds is put together for every reader.
    #[serde(skip)]
    pub(crate) json: String,
}

/// What decides the place of a test in an examination, beside how irritating it is.
#[derive(Debug, Clone)]
pub(crate) struct Placing {
    pub one_attempt: bool,
    pub minutes: Option<f64>,
    /// Names of its variants and how each places the patient, the taught one first.
    pub variants: Vec<(String, Option<Position>)>,
    /// Mechanisms of injury that speak for it.
    pub mechanisms: Vec<String>,
    /// Structures that a variant puts under test.
    pub structures: Vec<String>,
}

impl Placing {
    fn of(sheet: &Sheet) -> Self {
        let targets = sheet.variants.iter().flat_map(|it| &it.targets);
        let structures = targets.map(|it| it.structure.clone());
        Self {
            one_attempt: sheet.burden.tries == Some(1.0),
            minutes: sheet.burden.minutes,
            variants: sheet.variants.iter().map(|it| (it.name.clone(), it.position)).collect(),
            mechanisms: sheet
                .indications
                .iter()
                .filter(|it| it.kind == Some(IndicationKind::Mechanism))
                .map(|it| it.text.clone())
                .collect(),
            structures: structures.collect::<BTreeSet<String>>().into_iter().collect(),
        }
    }

    /// How a variant places the patient; without its name the taught one.
    pub fn position(&self, variant: &str) -> Option<Position> {
        let key = name_key(variant);
        let named = self.variants.iter().find(|(name, _)| !key.is_empty() && name_key(name) == key);
        named.or(self.variants.first()).and_then(|(_, position)| *position)
    }
}

/// A structure that a test loads.
#[derive(Debug, Clone)]
pub(crate) struct RowTarget {
    /// Compared form of its name.
    pub key: String,
    pub role: Option<LoadRole>,
    /// Name of the variant.
    pub variant: String,
    /// Name of the phase, or empty.
    pub phase: String,
}

impl TestRow {
    /// A test by what stands behind it for one of the conditions of its sheet.
    pub(crate) fn new(test: &TestRecord, condition: &str, backed: Option<&Backed>) -> Self {
        let &TestRecord { id, status, ref sheet, sample, .. } = test;
        let targets = sheet.variants.iter().flat_map(|variant| {
            variant.targets.iter().map(|target| RowTarget {
                key: name_key(&target.structure),
                role: target.role,
                variant: variant.name.clone(),
                phase: target.phase.clone(),
            })
        });
        let evidence = backed.map_or(Evidence::NotStudied, |backed| backed.evidence).with(sheet);
        let pooled = backed.and_then(|backed| backed.pooled.as_ref());
        let other_conditions = sheet.conditions().filter(|name| *name != condition).map(str::to_owned).collect();
        // Known before they are pooled.
        let extent = backed.map(|backed| backed.extent).unwrap_or_default();
        let (studies, patients) = pooled.map_or(extent, |pooled| (pooled.k, pooled.diseased + pooled.non_diseased));
        Self {
            json: String::new(),
            key: name_key(&sheet.name),
            condition_key: name_key(condition),
            targets: targets.collect(),
            placing: Placing::of(sheet),
            position: sheet.baseline().and_then(|variant| variant.position),
            equipment: sheet
                .baseline()
                .map(|variant| variant.equipment.iter().map(|thing| thing.name.clone()).collect())
                .unwrap_or_default(),
            irritation: sheet.burden.irritation,
            id,
            status,
            findings: 0,
            name: sheet.name.clone(),
            aliases: sheet.aliases.clone(),
            region: sheet.region,
            purpose: sheet.purpose,
            basis: sheet.basis,
            leading: sheet.condition == condition,
            other_conditions,
            condition: condition.to_owned(),
            positive_finding: sheet.positive_finding.clone(),
            studies,
            patients,
            evidence,
            sample: sample || backed.is_some_and(|backed| backed.sample),
            figures: figures_version(pooled.map(|pooled| &pooled.summary)),
            standing: backed.map_or(Standing::Current, |backed| backed.standing),
            joint: pooled.and_then(|pooled| pooled.joint_shape()),
            summary: pooled.map(|pooled| pooled.summary),
            ahead_positive: backed.and_then(|backed| backed.ahead.lr_positive),
            ahead_negative: backed.and_then(|backed| backed.ahead.lr_negative),
            levels: backed.map(|backed| backed.levels.levels.clone()).unwrap_or_default(),
            level_studies: backed.map_or(0, |backed| backed.levels.studies),
            warnings: pooled.map(|pooled| pooled.warnings.clone()).unwrap_or_default(),
        }
    }

    /// By the name, the leading condition first.
    pub(crate) fn order(&self, other: &Self) -> Ordering {
        let place = |row: &Self| (!row.leading, row.id);
        self.key.cmp(&other.key).then_with(|| place(self).cmp(&place(other))).then(self.condition.cmp(&other.condition))
    }

    /// With the row as it is answered.
    pub(crate) fn written(mut self) -> Self {
        self.json = serde_json::to_string(&self).unwrap_or_default();
        self
    }
}
