//! How what two readers read is compared.

use serde::Serialize;

/// How two values of a field are compared.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum FieldKind {
    /// One of several words: the same or not.
    Choice,
    /// A number: the same or not.
    Number,
    /// Words of one's own: capitals, spaces and a stop at the end make no difference.
    Words,
}
