//! Everything that a column can hold, and the words by which people head such a column.

use std::collections::BTreeMap;

use serde::Serialize;
use utoipa::ToSchema;

/// Which field each column holds, by the place of the column.
pub(super) type Mapping = BTreeMap<&'static str, usize>;

/// Something that a column can hold.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
pub struct TableField {
    /// Its name, that of the column in tables written here.
    pub name: &'static str,
    /// What stands there.
    pub about: &'static str,
}

/// Columns in their order, each with what stands in it. The names are those of the fields everywhere else.
pub const RESULT_COLUMNS: [(&str, &str); 44] = [
    ("test", "Name of the sheet"),
    ("region", "Body region of the test"),
    ("study", "Number of the study within this file; results of one study are of the same people"),
    ("reference", "Where it was published"),
    ("doi", "Identifier of the report, when it is on record"),
    ("population", "Who was examined"),
    ("design", "one_group, two_groups or retrospective"),
    ("recruitment", "consecutive, random or convenience"),
    ("setting", "primary_care, specialist_clinic, surgical_series, emergency, community or sports"),
    ("country", "Where"),
    ("first_year", "Year in which examining began"),
    ("last_year", "Year in which it ended"),
    ("people", "How many were examined"),
    ("age", "Mean or median age in years"),
    ("youngest", "Age of the youngest"),
    ("oldest", "Age of the oldest"),
    ("women", "Per cent"),
    ("activity", "general, athletes or workers"),
    ("course", "acute, chronic or mixed"),
    ("state", "awake or anaesthetised"),
    ("examiners", "Who examined, and how experienced they are"),
    (
        "source",
        "own_records: counted from own examinations, which pools leave out unless they are asked for; empty when published",
    ),
    ("study_note", "Notes about the study as a whole"),
    ("variant", "Variant of the test; empty for the one that is taught"),
    ("criterion", "What counted as positive, where it is not what the sheet teaches"),
    ("condition", "Target condition, where it is not that of the sheet"),
    ("stage", "Stage of it"),
    ("group", "Which of the study's people, when not all of them"),
    ("reference_standard", "What decided who has the condition"),
    ("unit", "person or side"),
    ("together", "Other tests read together with this one, and when they count as positive"),
    ("page", "Where the report prints it"),
    ("tp", "True positives; empty like fn when people with the condition are not reported"),
    ("fp", "False positives; empty like tn when people without the condition are not reported"),
    ("fn", "False negatives"),
    ("tn", "True negatives"),
    (
        "positive_unverified",
        "Test positive, reference standard not done; empty like negative_unverified when not reported",
    ),
    ("negative_unverified", "Test negative, reference standard not done"),
    (
        "uninterpretable_with",
        "Test not interpretable, with the condition, not in the cells; empty like uninterpretable_without when not reported",
    ),
    ("uninterpretable_without", "Test not interpretable, without the condition"),
    ("uninterpretable_unverified", "Test not interpretable, and not known who has the condition"),
    ("preferred", "yes: of several results of the same people this one is chosen for pools"),
    ("note", "Notes of who entered it"),
    ("sample_data", "yes: made up for demonstration; never use it for a patient"),
];

/// Fields that say something about the study.
pub(super) const OF_STUDY: [&str; 20] = [
    "reference",
    "doi",
    "population",
    "design",
    "recruitment",
    "setting",
    "country",
    "first_year",
    "last_year",
    "people",
    "age",
    "youngest",
    "oldest",
    "women",
    "activity",
    "course",
    "state",
    "examiners",
    "source",
    "study_note",
];
/// Fields of a result that are taken as they are.
pub(super) const OF_RESULT: [&str; 19] = [
    "variant",
    "criterion",
    "condition",
    "stage",
    "group",
    "reference_standard",
    "unit",
    "preferred",
    "page",
    "note",
    "tp",
    "fp",
    "fn",
    "tn",
    "positive_unverified",
    "negative_unverified",
    "uninterpretable_with",
    "uninterpretable_without",
    "uninterpretable_unverified",
];

/// Beyond the columns that are written: printed figures, from which the cells are rebuilt or by which they are checked, and a year that stands apart.
const ONLY_READ: [(&str, &str); 5] = [
    ("sensitivity", "As printed, such as 0.78 or 78%; the cells are rebuilt from it, or checked by it"),
    ("specificity", "As printed"),
    ("with_condition", "How many have the condition"),
    ("without_condition", "How many do not"),
    ("reference_year", "Year of the reference, where it stands in a column of its own; it is joined to the reference"),
];

/// Everything that a column can hold, in the order of the tables written here.
pub const FIELDS: [TableField; RESULT_COLUMNS.len() + ONLY_READ.len()] = {
    let mut fields = [TableField { name: "", about: "" }; RESULT_COLUMNS.len() + ONLY_READ.len()];
    let mut at = 0;
    while at < fields.len() {
        let (name, about) =
            if at < RESULT_COLUMNS.len() { RESULT_COLUMNS[at] } else { ONLY_READ[at - RESULT_COLUMNS.len()] };
        fields[at] = TableField { name, about };
        at += 1;
    }
    fields
};

/// Other words that people give to columns, without spaces and signs.
const OTHER_NAMES: [(&str, &[&str]); 31] = [
    ("test", &["testname", "indextest", "clinicaltest"]),
    ("region", &["bodyregion", "joint"]),
    ("study", &["studynumber", "studyno", "studyid", "studynr"]),
    (
        "reference",
        &[
            "citation",
            "publication",
            "source",
            "report",
            "article",
            "authoryear",
            "authorsyear",
            "author",
            "authors",
            "firstauthor",
            "autor",
            "autoren",
            "autores",
            "auteur",
            "auteurs",
        ],
    ),
    ("population", &["patients", "participants", "subjects"]),
    ("design", &["studydesign", "studytype"]),
    ("recruitment", &["sampling", "enrolment", "enrollment"]),
    ("setting", &["caresetting"]),
    ("people", &["n", "total", "totaln", "ntotal", "samplesize", "numberofpeople", "numberofpatients", "examined"]),
    ("age", &["meanage", "medianage", "ageyears"]),
    ("youngest", &["minage", "ageminimum", "agemin"]),
    ("oldest", &["maxage", "agemaximum", "agemax"]),
    ("women", &["womenpercent", "percentwomen", "female", "females", "percentfemale", "femalepercent"]),
    ("examiners", &["examiner", "rater", "raters"]),
    ("criterion", &["positivecriterion", "cutoff", "threshold"]),
    ("condition", &["targetcondition", "diagnosis", "disease"]),
    ("group", &["subgroup"]),
    ("reference_standard", &["goldstandard", "referencetest", "criterionstandard", "refstd", "refstandard", "reftest"]),
    ("unit", &["unitofanalysis"]),
    ("page", &["pages", "pageortable", "table"]),
    (
        "tp",
        &[
            "truepositive",
            "truepositives",
            "truepos",
            "tpn",
            "ntp",
            "vp",
            "vraispositifs",
            "verdaderospositivos",
            "richtigpositiv",
            "richtigpositive",
        ],
    ),
    (
        "fp",
        &[
            "falsepositive",
            "falsepositives",
            "falsepos",
            "fpn",
            "nfp",
            "fauxpositifs",
            "falsospositivos",
            "falschpositiv",
            "falschpositive",
        ],
    ),
    (
        "fn",
        &[
            "falsenegative",
            "falsenegatives",
            "falseneg",
            "fnn",
            "nfn",
            "fauxnegatifs",
            "fauxnégatifs",
            "falsosnegativos",
            "falschnegativ",
            "falschnegative",
        ],
    ),
    (
        "tn",
        &[
            "truenegative",
            "truenegatives",
            "trueneg",
            "tnn",
            "ntn",
            "vn",
            "vraisnegatifs",
            "vraisnégatifs",
            "verdaderosnegativos",
            "richtignegativ",
            "richtignegative",
        ],
    ),
    ("note", &["notes", "comment", "comments", "remark", "remarks"]),
    ("sample_data", &["sample", "madeup"]),
    ("sensitivity", &["se", "sens", "sn", "sensitivitypercent", "sepercent"]),
    ("specificity", &["sp", "spec", "specificitypercent", "sppercent"]),
    ("with_condition", &["diseased", "ndiseased", "cases"]),
    (
        "reference_year",
        &["year", "publicationyear", "yearofpublication", "pubyear", "jahr", "année", "annee", "año", "anno"],
    ),
    ("without_condition", &["nondiseased", "nnondiseased", "healthy", "controls"]),
];

/// A header without capitals, spaces and signs: what makes two headers the same.
pub(super) fn plain(header: &str) -> String {
    header.chars().filter(|sign| sign.is_alphanumeric()).flat_map(char::to_lowercase).collect()
}

/// The field that a header names.
pub(super) fn named(header: &str) -> Option<&'static str> {
    let header = plain(header);
    let own = FIELDS.iter().map(|field| field.name).find(|name| plain(name) == header);
    own.or_else(|| OTHER_NAMES.iter().find(|(_, names)| names.contains(&header.as_str())).map(|(name, _)| *name))
}
