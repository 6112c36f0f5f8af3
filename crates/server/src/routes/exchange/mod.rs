//! Bundles and tables.

pub(crate) mod bundle;
pub(crate) mod imports;
pub(crate) mod reference_import;
pub(crate) mod table_import;
pub(crate) mod tables;
