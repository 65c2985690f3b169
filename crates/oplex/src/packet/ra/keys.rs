//! Generated from the standard codebook: do not edit. `cargo run -p xtask -- generate` writes it anew.

use crate::prelude::*;

use crate::layout::Value;
use crate::packet::typed::keys;

keys! { Ra
    #[doc = "`ra:1` (RFC 4861, section 4.6.1): The hardware address that the message comes from."] #[doc(alias("hardware address"))] SOURCE_LINK_LAYER_ADDRESS: Vec<u8> = 1,
    #[doc = "`ra:3` (RFC 4861, section 4.6.2): A prefix: whether it is on the link, and whether hosts make addresses of it by themselves."] #[doc(alias("slaac", "autonomous", "on-link", "autoconfiguration"))] PREFIX_INFORMATION: Value = 3,
    #[doc = "`ra:5` (RFC 4861, section 4.6.4): The largest packet that everyone on the link can send."] MTU: Value = 5,
    #[doc = "`ra:7` (RFC 6275, section 7.3): How often the router advertises, in milliseconds."] #[doc(alias("mobile"))] ADVERTISEMENT_INTERVAL: Value = 7,
    #[doc = "`ra:8` (RFC 6275, section 7.4): How this home agent is preferred, and for how many seconds it is one."] #[doc(alias("mobile"))] HOME_AGENT_INFORMATION: Value = 8,
    #[doc = "`ra:24` (RFC 4191, section 2.3): A route through this router."] #[doc(alias("route"))] ROUTE_INFORMATION: Value = 24,
    #[doc = "`ra:25` (RFC 8106, section 5.1): Name servers, for hosts that never ask by DHCP."] #[doc(alias("dns", "name server", "resolver"))] RDNSS: Value = 25,
    #[doc = "`ra:26` (RFC 5175, section 4): More flags of the router, of which none is in use."] EXPANDED_FLAGS: Vec<u8> = 26,
    #[doc = "`ra:31` (RFC 8106, section 5.2): The domains to look names up in, for hosts that never ask by DHCP."] #[doc(alias("search", "domain"))] DNSSL: Value = 31,
    #[doc = "`ra:37` (RFC 8910, section 2.3): Where the portal's API is, before anybody gets through."] #[doc(alias("captive portal", "wifi"))] CAPTIVE_PORTAL: Value = 37,
    #[doc = "`ra:38` (RFC 8781, section 4): The prefix under which NAT64 shows the IPv4 world; its lifetime counts in units of 8 seconds."] #[doc(alias("nat64"))] PREF64: Value = 38,
    #[doc = "`ra:144` (RFC 9463, section 6.1): An encrypted DNS server, for hosts that never ask by DHCP."] #[doc(alias("dns", "dot", "doh"))] ENCRYPTED_DNS: Value = 144,
}
