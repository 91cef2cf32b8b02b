//! What the fire service, the wiring authority and the network operator ask of a job: who said it,
//! when, and what meets it.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::{DeviceKey, NodeKey};
pub use crate::tables::{DemandKind, Party};

/// A demand of a party.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Demand {
    /// Who asks.
    pub party: Party,
    /// What for.
    pub what: DemandKind,
    /// In their words.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    #[schema(max_length = 400)]
    pub text: String,
    /// Who said it.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    #[schema(max_length = 120)]
    pub said_by: String,
    /// When, as a date.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    #[schema(max_length = 40)]
    pub said_on: String,
    /// Where it is written: letter, permit, mail.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    #[schema(max_length = 200)]
    pub evidence: String,
    /// A disconnect: a breaker that can be locked will do; absent: not said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub breaker_will_do: Option<bool>,
    /// An export limit, W.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 100000000)]
    pub limit_w: Option<f64>,
    /// The node that meets it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub at: Option<NodeKey>,
    /// The device of that node.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub device: Option<DeviceKey>,
    /// Somebody looked and found it met, or not; absent: nobody yet.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub met: Option<bool>,
}
