//! Rules about captured traffic: [the audit](crate::audit) finds what they say.

use crate::family::Protocol::{Ra, V4, V6};
use crate::finding::{Example, Rule, rule};

/// All of them; nothing depends on their order.
pub(in crate::check) static RULES: [&Rule; 22] = [
    &MESSAGE_UNREADABLE,
    &CHECKSUM_WRONG,
    &REQUEST_UNANSWERED,
    &REQUEST_REPEATED,
    &REQUEST_REFUSED,
    &ADDRESS_DECLINED,
    &SEVERAL_SERVERS_ANSWER,
    &OFFER_NOT_KEPT,
    &OPTION_NEVER_SENT,
    &RENEWAL_OUT_OF_TIME,
    &ADDRESS_OF_TWO_CLIENTS,
    &DHCPV6_WITHOUT_FLAGS,
    &HOST_NEVER_REQUESTS,
    &SERVER_NOT_OF_PLAN,
    &ROUTER_NOT_OF_PLAN,
    &NETWORK_NOT_OF_PLAN,
    &REPLY_LACKS_OPTION,
    &REPLY_HAS_OTHER_OPTION,
    &REPLY_NOT_AS_PLANNED,
    &ADDRESS_NOT_OF_PLAN,
    &LEASE_NOT_AS_PLANNED,
    &ADVERTISEMENT_NOT_AS_PLANNED,
];

macro_rules! discover {
    ($lines:literal) => {
        concat!("type = \"discover\"\nxid = 7\nchaddr = \"02:00:5e:00:53:11\"\n", $lines)
    };
    ($xid:literal, $mac:literal) => {
        concat!("type = \"discover\"\nxid = ", $xid, "\nchaddr = \"", $mac, "\"\n")
    };
}

macro_rules! request {
    ($lines:literal) => {
        concat!(
            "type = \"request\"\nxid = 7\nchaddr = \"02:00:5e:00:53:11\"\n[options]\n\
             address-request = \"10.64.4.20\"\ndhcp-server-id = \"10.64.0.67\"\n",
            $lines
        )
    };
}

/// A reply of the server of the plan below.
macro_rules! reply {
    ($type:literal, $lines:literal) => {
        reply!($type, "10.64.4.20", "10.64.0.67", $lines)
    };
    ($type:literal, $address:literal, $server:literal, $lines:literal) => {
        concat!(
            "type = \"",
            $type,
            "\"\nxid = 7\nchaddr = \"02:00:5e:00:53:11\"\nyiaddr = \"",
            $address,
            "\"\n[options]\ndhcp-server-id = \"",
            $server,
            "\"\nsubnet-mask = \"255.255.254.0\"\naddress-time = \"8h\"\nrenewal-time = \"4h\"\nrebinding-time = \"7h\"\n",
            $lines
        )
    };
}

macro_rules! plan {
    ($lines:literal) => {
        concat!(
            "server = \"10.64.0.67\"\n[send.v4]\ndomain-server = \"10.64.0.53\"\ndomain-name = \"tarnfell.example\"\n\
             [network.control-room]\nsubnet = \"10.64.4.0/23\"\npool = \"10.64.4.20-10.64.5.250\"\n\
             lease = \"8h\"\nsend.v4 = { router = \"10.64.4.1\" }\n",
            $lines
        )
    };
}

macro_rules! sent {
    () => {
        "router = \"10.64.4.1\"\ndomain-server = \"10.64.0.53\"\ndomain-name = \"tarnfell.example\"\n"
    };
}

macro_rules! advertised {
    ($lines:literal) => {
        concat!(
            "type = \"advertisement\"\nlifetime = 1800\nsource = \"fe80::1\"\n",
            $lines,
            "[options]\nprefix-information = { length = 64, flags = \"on-link+autonomous\", \
             valid = \"30d\", preferred = \"7d\", prefix = \"2001:db8:64:40::\" }\n"
        )
    };
}

rule! {
    /// octets on a port of DHCP, or an ICMPv6 message of a router, are no message
    ///
    /// Clients and servers drop it silently.
    pub(crate) static MESSAGE_UNREADABLE = "message-unreadable", Error, Traffic, "RFC 2131, section 2";
    Example::Traffic("", &[(0, V4, "# octets 01 01 06 00")])
}

rule! {
    /// a message has the wrong UDP checksum
    ///
    /// In a capture on the sender's own machine that is usual: its network card writes the checksum later. Elsewhere
    /// receivers drop the message.
    pub(crate) static CHECKSUM_WRONG = "checksum-wrong", Note, Traffic, "";
    Example::Traffic("", &[(0, V4, concat!(discover!(""), "# its UDP checksum is wrong\n"))])
}

rule! {
    /// no server answers a request
    ///
    /// The client repeats it, and in the end does without: no server runs, none serves this network, no relay agent passes
    /// the request on, or the pool has no address left.
    pub(crate) static REQUEST_UNANSWERED = "request-unanswered", Warning, Traffic, "RFC 2131, section 4.1";
    Example::Traffic("", &[(0, V4, discover!("")), (40, V4, discover!("8", "02:00:5e:00:53:12"))])
}

rule! {
    /// a client had to repeat a request before it was answered
    ///
    /// The first request or its reply was lost, or the server was slow: the client waited for seconds.
    pub(crate) static REQUEST_REPEATED = "request-repeated", Note, Traffic, "RFC 2131, section 4.1";
    Example::Traffic("", &[(0, V4, discover!("")), (4, V4, discover!("")), (4, V4, reply!("offer", ""))])
}

rule! {
    /// a server refuses what a client requests
    ///
    /// The client gives up its address and begins anew. Often it moved from another network, its address was leased to another
    /// client, or two servers do not know of each other's leases.
    pub(crate) static REQUEST_REFUSED = "request-refused", Warning, Traffic, "RFC 2131, section 4.3.2";
    Example::Traffic("", &[
        (0, V4, request!("")),
        (0, V4, "type = \"nak\"\nxid = 7\nchaddr = \"02:00:5e:00:53:11\"\n[options]\ndhcp-server-id = \"10.64.0.67\"\n"),
    ])
}

rule! {
    /// a client declines an address, because another host uses it
    ///
    /// A machine has the address by hand, or by another server: both are now without a working address.
    pub(crate) static ADDRESS_DECLINED = "address-declined", Warning, Traffic, "RFC 2131, section 4.3.3";
    Example::Traffic("", &[(0, V4, "type = \"decline\"\nxid = 7\nchaddr = \"02:00:5e:00:53:11\"\n[options]\n\
        address-request = \"10.64.4.20\"\ndhcp-server-id = \"10.64.0.67\"\n")])
}

rule! {
    /// two servers answer the same request
    ///
    /// The client takes either: where they do not send the same, devices differ from one day to the next. One of them may be
    /// a router that was plugged in by mistake.
    pub(crate) static SEVERAL_SERVERS_ANSWER = "several-servers-answer", Warning, Traffic, "RFC 2131, section 3.1";
    Example::Traffic("", &[
        (0, V4, discover!("")),
        (0, V4, reply!("offer", "")),
        (0, V4, reply!("offer", "10.64.4.21", "10.64.4.77", "")),
    ])
}

rule! {
    /// a server acknowledges something else than it offered
    ///
    /// The client chose this server for what it offered.
    pub(crate) static OFFER_NOT_KEPT = "offer-not-kept", Warning, Traffic, "RFC 2131, section 4.3.2";
    Example::Traffic("", &[
        (0, V4, discover!("")),
        (0, V4, reply!("offer", "router = \"10.64.4.1\"\n")),
        (0, V4, request!("")),
        (0, V4, reply!("ack", "router = \"10.64.4.2\"\n")),
    ])
}

rule! {
    /// clients request an option that no reply of the capture has
    ///
    /// Most clients request much that a network does not have; now and then it is what a device is missing.
    pub(crate) static OPTION_NEVER_SENT = "option-never-sent", Note, Traffic, "RFC 2132, section 9.8";
    Example::Traffic("", &[
        (0, V4, discover!("[options]\nparameter-list = [42]\n")),
        (0, V4, reply!("offer", "")),
    ])
}

rule! {
    /// a client renews its lease much earlier or later than at T1
    ///
    /// Clients that come early add load, and often restart; those that come late may be without an address for a while.
    pub(crate) static RENEWAL_OUT_OF_TIME = "renewal-out-of-time", Note, Traffic, "RFC 2131, section 4.4.5";
    Example::Traffic("", &[
        (0, V4, request!("")),
        (0, V4, reply!("ack", "")),
        (60, V4, "type = \"request\"\nxid = 8\nciaddr = \"10.64.4.20\"\nchaddr = \"02:00:5e:00:53:11\"\n"),
    ])
}

rule! {
    /// two clients are leased the same address at the same time
    ///
    /// Both answer for it, and neither works: two servers lease from one pool, or a server lost its leases.
    pub(crate) static ADDRESS_OF_TWO_CLIENTS = "address-of-two-clients", Error, Traffic, "RFC 2131, section 1.6";
    Example::Traffic("", &[
        (0, V4, request!("")),
        (0, V4, reply!("ack", "")),
        (9, V4, "type = \"request\"\nxid = 8\nchaddr = \"02:00:5e:00:53:12\"\n[options]\naddress-request = \"10.64.4.20\"\n\
                 dhcp-server-id = \"10.64.0.67\"\n"),
        (9, V4, "type = \"ack\"\nxid = 8\nchaddr = \"02:00:5e:00:53:12\"\nyiaddr = \"10.64.4.20\"\n[options]\n\
                 dhcp-server-id = \"10.64.0.67\"\nsubnet-mask = \"255.255.254.0\"\naddress-time = \"8h\"\n"),
    ])
}

rule! {
    /// a host requests an address by DHCPv6 although the router does not set the flag M
    ///
    /// Some hosts ask whatever is advertised, others never do: whether a host has an address then depends on its system.
    pub(crate) static DHCPV6_WITHOUT_FLAGS = "dhcpv6-without-flags", Note, Traffic, "RFC 4861, section 4.2";
    Example::Traffic("", &[
        (0, Ra, advertised!("")),
        (1, V6, "type = \"solicit\"\ntransaction = 7\n[options]\nclientid = \"00:03:00:01:02:00:5e:00:53:11\"\n\
                 elapsed-time = 0\noro = [23, 82]\nia-na = { iaid = 1, t1 = 0, t2 = 0, options = [] }\n"),
    ])
}

rule! {
    /// a host looks for a router, which sets M or O, and never uses DHCPv6
    ///
    /// It has no DHCPv6 client, or that is off: it gets neither an address nor name servers this way. Advertise what such hosts
    /// need (RFC 8106).
    pub(crate) static HOST_NEVER_REQUESTS = "host-never-requests", Warning, Traffic, "RFC 4861, section 4.2";
    Example::Traffic("", &[
        (0, Ra, "type = \"solicitation\"\nsource = \"fe80::5eff:fe00:5311\"\n[options]\n\
                 source-link-layer-address = \"02:00:5e:00:53:11\"\n"),
        (0, Ra, advertised!("other = true\n")),
        (200, Ra, advertised!("other = true\n")),
    ])
}

rule! {
    /// a server that the plan does not know answers
    ///
    /// Whoever takes its answer gets other settings than the plan's, often no way out at all: a router that was plugged in by
    /// mistake, an old server that still runs, or an attacker.
    pub(crate) static SERVER_NOT_OF_PLAN = "server-not-of-plan", Error, Traffic, "";
    Example::Traffic(plan!(""), &[
        (0, V4, discover!("")),
        (0, V4, reply!("offer", "10.64.4.20", "10.64.4.77", "")),
    ])
}

rule! {
    /// a router that the plan does not know advertises
    ///
    /// Hosts take it as their way out, and its prefix for their addresses.
    pub(crate) static ROUTER_NOT_OF_PLAN = "router-not-of-plan", Error, Traffic, "";
    Example::Traffic("[network.mast]\nprefix = \"2001:db8:64:50::/64\"\nadvertise = { lifetime = \"30m\" }\n", &[
        (0, Ra, advertised!("")),
    ])
}

rule! {
    /// it is not known which network of the plan a message is of
    ///
    /// What a server of the plan would answer is not known either. `--network` says which network was captured.
    pub(crate) static NETWORK_NOT_OF_PLAN = "network-not-of-plan", Note, Traffic, "";
    Example::Traffic(plan!(""), &[
        (0, V4, discover!("giaddr = \"10.99.0.1\"\n")),
        (0, V4, concat!(
            "giaddr = \"10.99.0.1\"\n",
            reply!("offer", "10.99.0.20", "10.64.0.67", "")
        )),
    ])
}

rule! {
    /// a reply lacks an option that the plan sends this client
    ///
    /// The client requested it, the plan has it, and the server that ran did not send it: it serves another release, or
    /// took the client for another kind.
    pub(crate) static REPLY_LACKS_OPTION = "reply-lacks-option", Error, Traffic, "";
    Example::Traffic(plan!(""), &[
        (0, V4, discover!("")),
        (0, V4, reply!("offer", "router = \"10.64.4.1\"\ndomain-name = \"tarnfell.example\"\n")),
    ])
}

rule! {
    /// a reply has an option that the plan does not send this client
    ///
    /// What is not in the plan is not looked after.
    pub(crate) static REPLY_HAS_OTHER_OPTION = "reply-has-other-option", Warning, Traffic, "";
    Example::Traffic(plan!(""), &[
        (0, V4, discover!("")),
        (0, V4, concat!(reply!("offer", "ntp-servers = \"10.64.0.123\"\n"), sent!())),
    ])
}

rule! {
    /// a reply says something else than the plan
    ///
    /// The client works by a value that the plan does not have.
    pub(crate) static REPLY_NOT_AS_PLANNED = "reply-not-as-planned", Error, Traffic, "";
    Example::Traffic(plan!(""), &[
        (0, V4, discover!("")),
        (0, V4, reply!("offer", "router = \"10.64.4.9\"\ndomain-server = \"10.64.0.53\"\ndomain-name = \"tarnfell.example\"\n")),
    ])
}

rule! {
    /// a client is assigned an address that by the plan is not for it
    ///
    /// It is outside the pools that this client is leased from, excluded, or reserved for another client.
    pub(crate) static ADDRESS_NOT_OF_PLAN = "address-not-of-plan", Error, Traffic, "";
    Example::Traffic(plan!(""), &[
        (0, V4, discover!("")),
        (0, V4, concat!(reply!("offer", "10.64.4.9", "10.64.0.67", ""), sent!())),
    ])
}

rule! {
    /// a lease or its times are other than the plan's
    ///
    /// How soon a change reaches this client is not what the plan says.
    pub(crate) static LEASE_NOT_AS_PLANNED = "lease-not-as-planned", Warning, Traffic, "";
    Example::Traffic(plan!(""), &[
        (0, V4, discover!("")),
        (0, V4, concat!(
            "type = \"offer\"\nxid = 7\nchaddr = \"02:00:5e:00:53:11\"\nyiaddr = \"10.64.4.20\"\n[options]\n\
             dhcp-server-id = \"10.64.0.67\"\nsubnet-mask = \"255.255.254.0\"\naddress-time = \"10h\"\n\
             renewal-time = \"4h\"\nrebinding-time = \"7h\"\n",
            sent!()
        )),
    ])
}

rule! {
    /// a router advertises something else than the plan
    ///
    /// Every host on the link works by it.
    pub(crate) static ADVERTISEMENT_NOT_AS_PLANNED = "advertisement-not-as-planned", Error, Traffic, "";
    Example::Traffic("[network.mast]\nprefix = \"2001:db8:64:40::/64\"\nadvertise = { lifetime = \"30m\", mtu = 1480 }\n", &[
        (0, Ra, advertised!("")),
    ])
}
