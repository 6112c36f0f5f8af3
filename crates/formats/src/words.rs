//! The words of the interface for codes, so that paper and screen say the same.

use pruvex_core::catalogue::Region;
use serde_json::Value;

use crate::typesetting::TypesettingError;

const CODES: &str = include_str!("../../../web/src/shared/codes.json");

pub(crate) fn codes() -> Result<Value, TypesettingError> {
    serde_json::from_str(CODES).map_err(|error| TypesettingError::of(&error))
}

/// A region as people call it.
#[must_use]
pub fn region_name(region: Region) -> String {
    let codes = codes().ok();
    let name = codes.as_ref().and_then(|codes| codes["regions"][region.code()].as_str());
    name.unwrap_or(region.code()).to_owned()
}
