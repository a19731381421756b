//! The firm that issues and the people named in a job.

use proof_standard::house_rules::HouseRules;
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// The firm that issues certificates.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Firm {
    /// Trading name.
    pub name: String,
    /// Address.
    pub address: String,
    /// Telephone or electronic address.
    #[serde(default)]
    pub contact: String,
    /// House rules that its jobs begin with.
    #[serde(default)]
    pub house_rules: HouseRules,
}

/// Somebody who reads, enters or signs.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(deny_unknown_fields)]
pub struct Person {
    /// Identity.
    pub id: Uuid,
    /// Name as signed.
    pub name: String,
    /// Position or qualification.
    #[serde(default)]
    pub position: String,
}
