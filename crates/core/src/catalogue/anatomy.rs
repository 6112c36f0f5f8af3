//! Joints, their motions, and the structures that tests load.

use serde::{Deserialize, Serialize};

use super::Region;
use super::limits::{MAX_ITEMS, MAX_NAME, code};
use crate::FieldError;
use crate::field::{Checker, Part, parts};

/// A joint, or a group of joints that is moved as one.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[allow(missing_docs, reason = "the names are the anatomy's own")]
pub enum Joint {
    CervicalSpine,
    Shoulder,
    AcromioclavicularJoint,
    SternoclavicularJoint,
    ShoulderBlade,
    Elbow,
    Forearm,
    Wrist,
    ThumbBase,
    Thumb,
    Fingers,
    ThoracicSpine,
    LumbarSpine,
    SacroiliacJoint,
    Hip,
    Knee,
    PatellofemoralJoint,
    TibiofibularJoint,
    Ankle,
    Hindfoot,
    SubtalarJoint,
    TalonavicularJoint,
    Midfoot,
    Toes,
}

/// A motion of a joint, or the direction of a force on it. Towards and away are seen from the side that is tested.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[allow(missing_docs, reason = "the names are the anatomy's own")]
pub enum Motion {
    Flexion,
    Extension,
    Abduction,
    Adduction,
    HorizontalAbduction,
    HorizontalAdduction,
    /// Not a motion but where elevation goes: degrees in front of the frontal plane.
    PlaneOfElevation,
    Varus,
    Valgus,
    InternalRotation,
    ExternalRotation,
    RotationTowards,
    RotationAway,
    SideBendTowards,
    SideBendAway,
    Pronation,
    Supination,
    RadialDeviation,
    UlnarDeviation,
    Dorsiflexion,
    PlantarFlexion,
    Inversion,
    Eversion,
    Elevation,
    Depression,
    Protraction,
    Retraction,
    Opposition,
    Reposition,
    AnteriorGlide,
    PosteriorGlide,
    MedialGlide,
    LateralGlide,
    SuperiorGlide,
    InferiorGlide,
    Compression,
    Distraction,
    ForwardTilt,
    BackwardTilt,
}

impl Motion {
    /// The motion that undoes this one; what has no direction is its own.
    #[must_use]
    pub fn opposite(self) -> Self {
        use Motion as M;
        const PAIRS: [(Motion, Motion); 19] = [
            (M::Flexion, M::Extension),
            (M::Abduction, M::Adduction),
            (M::HorizontalAbduction, M::HorizontalAdduction),
            (M::Varus, M::Valgus),
            (M::InternalRotation, M::ExternalRotation),
            (M::RotationTowards, M::RotationAway),
            (M::SideBendTowards, M::SideBendAway),
            (M::Pronation, M::Supination),
            (M::RadialDeviation, M::UlnarDeviation),
            (M::Dorsiflexion, M::PlantarFlexion),
            (M::Inversion, M::Eversion),
            (M::Elevation, M::Depression),
            (M::Protraction, M::Retraction),
            (M::Opposition, M::Reposition),
            (M::AnteriorGlide, M::PosteriorGlide),
            (M::MedialGlide, M::LateralGlide),
            (M::SuperiorGlide, M::InferiorGlide),
            (M::Compression, M::Distraction),
            (M::ForwardTilt, M::BackwardTilt),
        ];
        let found = PAIRS.iter().find_map(|(one, other)| match self {
            it if it == *one => Some(*other),
            it if it == *other => Some(*one),
            _ => None,
        });
        found.unwrap_or(self)
    }

    /// Whether it is a turn, a bend, a stress or a glide to one of two sides: sheets must agree on what each of the two loads.
    #[must_use]
    pub fn has_a_side(self) -> bool {
        use Motion as M;
        matches!(
            self,
            M::HorizontalAbduction
                | M::HorizontalAdduction
                | M::Varus
                | M::Valgus
                | M::MedialGlide
                | M::LateralGlide
                | M::SuperiorGlide
                | M::InferiorGlide
                | M::InternalRotation
                | M::ExternalRotation
                | M::RotationTowards
                | M::RotationAway
                | M::SideBendTowards
                | M::SideBendAway
                | M::Pronation
                | M::Supination
                | M::RadialDeviation
                | M::UlnarDeviation
                | M::Inversion
                | M::Eversion
        )
    }
}

/// What a muscle does when it contracts.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Action {
    /// At which joint.
    pub joint: Joint,
    /// Into which motion.
    pub motion: Motion,
}

/// What kind of tissue a structure is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[allow(missing_docs, reason = "the names are the anatomy's own")]
pub enum Tissue {
    Muscle,
    Tendon,
    Ligament,
    Nerve,
    Bone,
    Joint,
    Cartilage,
    Bursa,
    Fascia,
    Vessel,
}

/// A structure as a person or a file wrote it.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct StructureInput {
    /// Region code.
    pub region: String,
    /// Name.
    pub name: String,
    /// Other names of it.
    pub other_names: Vec<String>,
    /// What kind of tissue it is.
    pub tissue: Option<Tissue>,
    /// What it does when it contracts; muscles only.
    pub actions: Vec<Action>,
    /// No longer offered; sheets that name it keep it.
    pub retired: bool,
}

/// A structure of the vocabulary.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Structure {
    /// Region.
    pub region: Region,
    /// Name, unique within its region among all names.
    pub name: String,
    /// Other names of it.
    pub other_names: Vec<String>,
    /// What kind of tissue it is.
    pub tissue: Tissue,
    /// What it does when it contracts.
    pub actions: Vec<Action>,
    /// No longer offered; sheets that name it keep it.
    pub retired: bool,
}

impl Structure {
    /// Checks a structure by itself; whether its names are free is the store's to say.
    ///
    /// # Errors
    /// Every fault found.
    pub fn check(input: &StructureInput) -> Result<Self, Vec<FieldError>> {
        let mut checker = Checker::default();
        let c = &mut checker;
        let name = c.required("name", &input.name, MAX_NAME, "Name the structure.");
        let other_names = c.texts("other_names", &input.other_names, 30, MAX_NAME);
        c.unique("other_names", other_names.iter().map(String::as_str));
        let region = code(c, "region", &input.region, Region::from_code, "Choose a body region.");
        let remedy = "Choose what kind of tissue it is.";
        let tissue = c.present("tissue", input.tissue, remedy);
        if !input.actions.is_empty() && tissue.is_some_and(|tissue| tissue != Tissue::Muscle) {
            c.invalid("actions", "", "Only a muscle has actions.", "Remove them, or make it a muscle.");
        }
        let actions = parts(c, "actions", &input.actions, MAX_ITEMS);
        let structure = region.zip(tissue).map(|(region, tissue)| Self {
            region,
            name,
            other_names,
            tissue,
            actions,
            retired: input.retired,
        });
        checker.finish(structure)
    }

    /// Name first, then the other names.
    pub fn names(&self) -> impl Iterator<Item = &str> {
        std::iter::once(self.name.as_str()).chain(self.other_names.iter().map(String::as_str))
    }
}

impl Part for Action {
    fn checked(&self, _: &mut Checker, _: &str) -> Self {
        *self
    }

    fn is_blank(&self) -> bool {
        false
    }
}
