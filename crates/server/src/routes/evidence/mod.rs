//! What was published: references, studies, and their results of accuracy and of agreement.

pub(crate) mod agreements;
pub(crate) mod appraisals;
pub(crate) mod extractions;
pub(crate) mod references;
pub(crate) mod results;
pub(crate) mod studies;
