//! A captured reply's leases, as a server of the plan sees them.

use crate::packet::AnyMessage;
use crate::server::associations::asked;
use crate::server::{Association, Choices, Holder, Leased, Leases};

/// Leases as a captured reply has them: whatever a server of the plan may lease of that, it leases.
#[derive(Debug, Default)]
pub(super) struct Witness {
    leased: Vec<(Association, Leased)>,
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
        Self { leased }
    }
}

impl Leases for Witness {
    fn find(&mut self, holder: &Holder<'_>) -> Option<Leased> {
        self.leased.iter().find(|(association, _)| *association == holder.association).map(|(_, leased)| *leased)
    }

    fn offer(&mut self, _: &Holder<'_>, choices: &mut Choices<'_>) -> Option<Leased> {
        let preferred = choices.preferred().next();
        preferred.or_else(|| choices.range()?.get(0))
    }

    fn bind(&mut self, _: &Holder<'_>, _: Leased, _: u32) -> bool {
        true
    }

    fn free(&mut self, _: &Holder<'_>, _: Leased, _: bool) {}
}
