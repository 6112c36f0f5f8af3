//! References, studies, their results, their appraisals, and double extraction.

pub(crate) mod agreements;
pub(crate) mod appraisals;
pub(crate) mod extractions;
pub(crate) mod levels;
pub(crate) mod prevalence;
pub(crate) mod references;
pub(crate) mod results;
pub(crate) mod studies;
