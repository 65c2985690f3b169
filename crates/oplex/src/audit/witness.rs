//! A captured reply's leases, as a server of the plan sees them.

use crate::answer::associations::{NO_ADDRESS, NO_PREFIX};
use crate::packet::AnyMessage;
use crate::server::associations::asked;
use crate::server::{Association, Choices, Holder, Leased, Leases};

/// Leases as a captured reply has them: whatever a server of the plan may lease of that, it leases.
#[derive(Debug, Default)]
pub(super) struct Witness {
    leased: Vec<(Association, Leased)>,
    /// What the reply says that nothing is left for.
    refused: Vec<Association>,
}

impl Witness {
    pub(super) fn of(reply: AnyMessage<'_>) -> Self {
        let leased = match reply {
            AnyMessage::V4(message) => {
                let header = message.header();
                let given = if header.yiaddr.is_unspecified() { header.ciaddr } else { header.yiaddr };
                vec![(Association::Client, Leased::Address(given.into()))]
            }
            AnyMessage::V6(message) => {
                asked(message).iter().filter_map(|one| Some((one.association(), one.wants?))).collect()
            }
            AnyMessage::Ra(_) => Vec::new(),
        };
        Self { leased, refused: refused(reply) }
    }

    /// The same as if everything were free; `None` where the reply does not say otherwise.
    pub(super) fn with_all_free(&self) -> Option<Self> {
        (!self.refused.is_empty()).then(|| Self { leased: self.leased.clone(), refused: Vec::new() })
    }
}

/// The associations that a reply says nothing is left for. No observer of messages knows better, but of what is reserved.
fn refused(reply: AnyMessage<'_>) -> Vec<Association> {
    let AnyMessage::V6(message) = reply else { return Vec::new() };
    let none_left = |status: u16| matches!(status.into(), NO_ADDRESS | NO_PREFIX);
    let refused = asked(message).into_iter().filter(|one| one.wants.is_none() && one.status.is_some_and(none_left));
    refused.map(|one| one.association()).collect()
}

impl Leases for Witness {
    fn find(&mut self, holder: &Holder<'_>) -> Option<Leased> {
        self.leased.iter().find(|(association, _)| *association == holder.association).map(|(_, leased)| *leased)
    }

    fn offer(&mut self, holder: &Holder<'_>, choices: &mut Choices<'_>) -> Option<Leased> {
        if self.refused.contains(&holder.association) && choices.reserved().is_none() {
            return None;
        }
        let preferred = choices.preferred().next();
        preferred.or_else(|| choices.range()?.get(0))
    }

    fn bind(&mut self, _: &Holder<'_>, _: Leased, _: u32) -> bool {
        true
    }

    fn free(&mut self, _: &Holder<'_>, _: Leased, _: bool) {}
}
