//! Rules about options that belong together in an answer, and about the room that they need.

use crate::answer::{Audience, Chosen, Largest, surely_fits};
use crate::check::declare::{BothSent, check, checks, v4_plan};
use crate::family::{Both, Protocol};
use crate::finding::{Finding, Findings, Spot};
use crate::packet::v4::LeftOut;

pub(super) fn find<'s, 'a>(sent: &'s Both<Vec<Chosen<'a>>>, code: u16) -> Option<&'s Chosen<'a>> {
    Chosen::find(&sent.v4, Protocol::V4, code)
}

/// A finding at the name of an option.
pub(super) fn at_key(finding: Finding, chosen: &Chosen<'_>) -> Option<Finding> {
    Some(finding.at(chosen.option.key()?.clone()))
}

checks! {
    NETBIOS_WITHOUT_NODE_TYPE, NETBIOS_WITHOUT_SERVERS, SEARCH_WITHOUT_DOMAIN,
    REPLY_OVER_BUDGET
}

check! { Answer(netbios_without_node_type),
    /// NetBIOS name servers are sent without a node type (46)
    ///
    /// Without a node type many clients resolve names by broadcast alone, and the servers are never used.
    static NETBIOS_WITHOUT_NODE_TYPE = "netbios-without-node-type", Note, Answer, "RFC 2132, section 8.7";
    v4_plan!("", "router = \"10.64.4.1\"\nnetbios-name-srv = \"10.64.0.64\"\n")
}

fn netbios_without_node_type(audience: &Audience<'_>, sent: &BothSent<'_>, findings: &mut Findings) {
    let Some(servers) = find(sent, 44).filter(|_| find(sent, 46).is_none()) else { return };
    let finding =
        NETBIOS_WITHOUT_NODE_TYPE.finding(format!("{audience}: NetBIOS name servers are sent, but no node type"));
    findings.extend(at_key(finding.advice("netbios-node-type = \"h-node\""), servers));
}

check! { Answer(netbios_without_servers),
    /// a node type (46) that uses NetBIOS name servers is sent without any (44)
    ///
    /// Such nodes ask a name server first, or only, and find no name until they fall back to broadcasts, if they do.
    static NETBIOS_WITHOUT_SERVERS = "netbios-without-servers", Warning, Answer, "RFC 1001, section 10";
    v4_plan!("", "router = \"10.64.4.1\"\nnetbios-node-type = \"h-node\"\n")
}

fn netbios_without_servers(audience: &Audience<'_>, sent: &BothSent<'_>, findings: &mut Findings) {
    let Some(node) = find(sent, 46).filter(|_| find(sent, 44).is_none()) else { return };
    // A node that broadcasts alone needs none.
    let Some(kind) = node.option.value().filter(|kind| matches!(kind.number(), Some(2 | 4 | 8))) else { return };
    let finding = NETBIOS_WITHOUT_SERVERS
        .finding(format!("{audience}: the node type {kind} needs NetBIOS name servers, and none is sent"));
    findings.extend(at_key(finding.advice("netbios-name-srv = [\"…\"] in addition, or b-node"), node));
}

check! { Answer(search_without_domain),
    /// a domain search list is sent without a domain name (15)
    ///
    /// Some clients use the first search domain as their own, some have none and register nowhere.
    static SEARCH_WITHOUT_DOMAIN = "search-without-domain", Note, Answer, "RFC 3397, section 4";
    v4_plan!(
        "withhold = [\"domain-name\"]\n",
        "router = \"10.64.4.1\"\ndomain-search = [\"tarnfell.example\"]\n"
    )
}

fn search_without_domain(audience: &Audience<'_>, sent: &BothSent<'_>, findings: &mut Findings) {
    let Some(search) = find(sent, 119).filter(|_| find(sent, 15).is_none()) else { return };
    let finding = SEARCH_WITHOUT_DOMAIN.finding(format!("{audience}: a search list is sent, but no domain-name"));
    findings.extend(at_key(finding, search));
}

check! { Answer(reply_over_budget),
    /// the options for a network's clients exceed a datagram of 576 octets
    ///
    /// A client that does not advertise a larger size gets a reply without the options that do not fit, and no error.
    /// Clients that accept 1500 octets, as many do, get all of them.
    static REPLY_OVER_BUDGET = "reply-over-budget", Warning, Answer, "RFC 2131, section 2";
    v4_plan!(
        "",
        "router = \"10.64.4.1\"\n\
         merit-dump-file = \"/a/long/way/down/the/tree/of/boot/files/to/the/one/that/the/controllers/of/the/third/dome/load/when/they/start/first.efi\"\n\
         root-path = \"10.64.0.80:/export/observatory/domes/third/controllers/with/a/name/that/goes/on/for/a/good/while/and/then/some/more/root\"\n\
         \"v4:224\" = { hex = \"00010203040506070809101112131415161718192021222324252627282930313233343536373839404142434445464748495051525354555657585960616263646566676869707172737475767778798081828384858687888990919293949596979899\" }\n\
         \"v4:225\" = { hex = \"00010203040506070809101112131415161718192021222324252627282930313233343536373839404142434445464748495051525354555657585960616263646566676869707172737475767778798081828384858687888990919293949596979899\" }\n"
    )
}

fn reply_over_budget(audience: &Audience<'_>, sent: &BothSent<'_>, findings: &mut Findings) {
    // The largest of the network's answers is spoken of, once.
    if !surely_fits(*audience, &sent.v4) {
        findings.extend(over_budget(audience));
    }
}

fn over_budget(audience: &Audience<'_>) -> Option<Finding> {
    let compiled = audience.compiled;
    let Largest { fleet, payloads, budget } = compiled.largest_reply(audience.at)?;
    let named = budget.left_out.iter().map(|LeftOut { code, cost, .. }| {
        let sent = payloads.iter().find(|sent| sent.code == u16::from(*code));
        let name = compiled.codebook.label(Protocol::V4, u16::from(*code));
        (format!("{name} ({cost} octets)"), sent.and_then(|sent| sent.from.first()?.spot))
    });
    let named: Vec<(String, Option<&Spot>)> = named.collect();
    let (_, first) = named.first()?;
    let names: Vec<&str> = named.iter().map(|(name, _)| name.as_str()).collect();
    let message = format!(
        "{}{}: a client that accepts 576 octets does not receive {}; the other options take {} of {} octets",
        audience.network().name,
        fleet.map(|fleet| format!(", fleet {fleet}")).unwrap_or_default(),
        names.join(", no "),
        budget.used,
        budget.limit.octets
    );
    let mut finding = REPLY_OVER_BUDGET.finding(message).at(first.or(audience.spot())?.clone());
    for (name, spot) in &named[1..] {
        if let Some(spot) = spot {
            finding = finding.related((*spot).clone(), format!("no room for {name} either"));
        }
    }
    Some(finding.advice("fewer or shorter values, or send the large ones only to the clients that use them"))
}
