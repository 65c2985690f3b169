//! What changes between two plans.

use serde::Serialize;

/// All that changes.
#[derive(Serialize)]
pub(crate) struct ChangesForm {
    pub(crate) old: String,
    pub(crate) new: String,
    /// How many errors each of the two has.
    pub(crate) errors: [usize; 2],
    pub(crate) changed: Vec<ChangedForm>,
}

/// What changes for a network, a fleet or a client.
#[derive(Serialize)]
pub(crate) struct ChangedForm {
    pub(crate) concerned: String,
    /// `changed`, `removed` or `added`.
    pub(crate) is: &'static str,
    /// How many addresses it leases; text, as there may be more than 2^53.
    pub(crate) addresses: Option<String>,
    pub(crate) changes: Vec<ChangeForm>,
}

/// One change, with the octets or text before and after, and what they mean.
#[derive(Serialize)]
pub(crate) struct ChangeForm {
    pub(crate) what: String,
    pub(crate) name: String,
    pub(crate) before: Option<String>,
    pub(crate) after: Option<String>,
    pub(crate) before_value: Option<String>,
    pub(crate) after_value: Option<String>,
}
