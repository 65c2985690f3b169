//! Where one option comes from, and why a client does not belong to a fleet.

use oplex::answer::Unfit;
use oplex::layout::Value;
use serde::Serialize;

use super::plan::FromForm;

#[derive(Serialize)]
pub(crate) struct ExplanationForm<'r> {
    pub(crate) option: String,
    pub(crate) name: &'r str,
    pub(crate) state: State,
    /// What the client is or would be sent.
    pub(crate) value: Option<Value>,
    pub(crate) hex: Option<String>,
    /// The layers that send it, the narrowest first: its value is the one that counts.
    pub(crate) layers: Vec<SaysForm<'r>>,
    pub(crate) withheld_by: Vec<&'r str>,
}

/// Whether the client is sent it, and why not.
#[derive(Serialize, Clone, Copy)]
#[serde(rename_all = "kebab-case")]
pub(crate) enum State {
    Sent,
    /// It follows from the network, and no layer sends it.
    Derived,
    NotRequested,
    /// No host uses DHCPv6 there.
    NotUsed,
    NotSent,
}

/// What a layer sends.
#[derive(Serialize)]
pub(crate) struct SaysForm<'r> {
    pub(crate) layer: &'r str,
    pub(crate) value: Option<Value>,
    pub(crate) hex: Option<String>,
    pub(crate) from: Option<FromForm>,
}

#[derive(Serialize)]
pub(crate) struct WhyNotForm<'r> {
    pub(crate) fleet: &'r str,
    pub(crate) families: Vec<BelongsForm>,
}

/// Whether the client belongs to the fleet by one family.
#[derive(Serialize)]
pub(crate) struct BelongsForm {
    pub(crate) family: &'static str,
    pub(crate) belongs: bool,
    pub(crate) unfit: Vec<UnfitForm>,
}

/// A condition that the client does not meet, and what it sends of that.
#[derive(Serialize)]
pub(crate) struct UnfitForm {
    wanted: String,
    seen: Vec<String>,
}

impl From<Unfit> for UnfitForm {
    fn from(Unfit { wanted, seen }: Unfit) -> Self {
        Self { wanted, seen }
    }
}
