//! Generated from the standard codebook: do not edit. `cargo run -p xtask -- generate` writes it anew.

use crate::prelude::*;

use crate::layout::Value;
use crate::packet::typed::keys;

keys! { Ra
    /// The hardware address that the message comes from.
    ///
    /// - Option: `ra:1` (`source-link-layer-address`), RFC 4861, section 4.6.1
    /// - Layout: `bytes{6..}`
    /// - Example: `02:00:5e:00:53:01`
    /// - Its octets: `02:00:5e:00:53:01`
    /// - Sent by: routers
    #[doc(alias("hardware address"))]
    SOURCE_LINK_LAYER_ADDRESS: Vec<u8> = 1,
    /// A prefix: whether it is on the link, and whether hosts make addresses of it by themselves.
    ///
    /// - Option: `ra:3` (`prefix-information`), RFC 4861, section 4.6.2
    /// - Layout: `{ length: u8 in ..=128, flags: u8 flags ra-prefix, valid: seconds, preferred: seconds, reserved: zeros{4}, prefix: ipv6 as network }`
    /// - Example: `{ length = 64, flags = on-link+autonomous, valid = 30d, preferred = 7d, prefix = "2001:db8:64:10::" }`
    /// - Its octets: `40:c0:00:27:8d:00:00:09:3a:80:00:00:00:00:20:01:0d:b8:00:64:00:10:00:00 … (30 octets)`
    /// - Sent by: routers
    #[doc(alias("slaac", "autonomous", "on-link", "autoconfiguration"))]
    PREFIX_INFORMATION: Value = 3,
    /// The largest packet that everyone on the link can send.
    ///
    /// - Option: `ra:5` (`mtu`), RFC 4861, section 4.6.4
    /// - Layout: `{ reserved: zeros{2}, mtu: u32 in 1280.. }`
    /// - Example: `{ mtu = 1500 }`
    /// - Its octets: `00:00:00:00:05:dc`
    /// - Sent by: routers
    MTU: Value = 5,
    /// How often the router advertises, in milliseconds.
    ///
    /// - Option: `ra:7` (`advertisement-interval`), RFC 6275, section 7.3
    /// - Layout: `{ reserved: zeros{2}, milliseconds: u32 unit milliseconds }`
    /// - Example: `{ milliseconds = 10000 }`
    /// - Its octets: `00:00:00:00:27:10`
    /// - Sent by: routers
    #[doc(alias("mobile"))]
    ADVERTISEMENT_INTERVAL: Value = 7,
    /// How this home agent is preferred, and for how many seconds it is one.
    ///
    /// - Option: `ra:8` (`home-agent-information`), RFC 6275, section 7.4
    /// - Layout: `{ reserved: zeros{2}, preference: u16, lifetime: u16 unit seconds in 1.. }`
    /// - Example: `{ preference = 0, lifetime = 1800 }`
    /// - Its octets: `00:00:00:00:07:08`
    /// - Sent by: routers
    #[doc(alias("mobile"))]
    HOME_AGENT_INFORMATION: Value = 8,
    /// A route through this router.
    ///
    /// - Option: `ra:24` (`route-information`), RFC 4191, section 2.3
    /// - Layout: `{ length: u8 in ..=128, preference: u8 of ra-preference, lifetime: seconds, prefix: ipv6-head by length }`
    /// - Example: `{ length = 48, preference = high, lifetime = 30m, prefix = "2001:db8:64::" }`
    /// - Its octets: `30:08:00:00:07:08:20:01:0d:b8:00:64:00:00`
    /// - Sent by: routers
    #[doc(alias("route"))]
    ROUTE_INFORMATION: Value = 24,
    /// Name servers, for hosts that never ask by DHCP.
    ///
    /// - Option: `ra:25` (`rdnss`), RFC 8106, section 5.1
    /// - Layout: `{ reserved: zeros{2}, lifetime: seconds, servers: ipv6+ }`
    /// - Example: `{ lifetime = 30m, servers = ["2001:db8:64::53"] }`
    /// - Its octets: `00:00:00:00:07:08:20:01:0d:b8:00:64:00:00:00:00:00:00:00:00:00:53`
    /// - Sent by: routers
    #[doc(alias("dns", "name server", "resolver"))]
    RDNSS: Value = 25,
    /// More flags of the router, of which none is in use.
    ///
    /// - Option: `ra:26` (`expanded-flags`), RFC 5175, section 4
    /// - Layout: `bytes{6}`
    /// - Example: `80:00:00:00:00:00`
    /// - Its octets: `80:00:00:00:00:00`
    /// - Sent by: routers
    EXPANDED_FLAGS: Vec<u8> = 26,
    /// The domains to look names up in, for hosts that never ask by DHCP.
    ///
    /// - Option: `ra:31` (`dnssl`), RFC 8106, section 5.2
    /// - Layout: `{ reserved: zeros{2}, lifetime: seconds, domains: padded8(name+) }`
    /// - Example: `{ lifetime = 30m, domains = ["tarnfell.example"] }`
    /// - Its octets: `00:00:00:00:07:08:08:74:61:72:6e:66:65:6c:6c:07:65:78:61:6d:70:6c:65:00 … (30 octets)`
    /// - Sent by: routers
    #[doc(alias("search", "domain"))]
    DNSSL: Value = 31,
    /// Where the portal's API is, before anybody gets through.
    ///
    /// - Option: `ra:37` (`captive-portal`), RFC 8910, section 2.3
    /// - Layout: `padded8+2(uri)`
    /// - Example: `https://portal.tarnfell.example/api`
    /// - Its octets: `68:74:74:70:73:3a:2f:2f:70:6f:72:74:61:6c:2e:74:61:72:6e:66:65:6c:6c:2e … (38 octets)`
    /// - Sent by: routers
    #[doc(alias("captive portal", "wifi"))]
    CAPTIVE_PORTAL: Value = 37,
    /// The prefix under which NAT64 shows the IPv4 world; its lifetime counts in units of 8 seconds.
    ///
    /// - Option: `ra:38` (`pref64`), RFC 8781, section 4
    /// - Layout: `{ scale: bits { lifetime: 13 unit eight-seconds, length: 3 of ra-pref64-length }, prefix: ipv6-head{12} }`
    /// - Example: `{ scale = { lifetime = 225, length = "/96" }, prefix = "64:ff9b::" }`
    /// - Its octets: `07:08:00:64:ff:9b:00:00:00:00:00:00:00:00`
    /// - Sent by: routers
    #[doc(alias("nat64"))]
    PREF64: Value = 38,
    /// An encrypted DNS server, for hosts that never ask by DHCP.
    ///
    /// - Option: `ra:144` (`encrypted-dns`), RFC 9463, section 6.1
    /// - Layout: `{ priority: u16, lifetime: seconds, rest: padded8({ authentication-domain: len16(name), addresses: len16(ipv6+)?, parameters: len16(options(service-parameters))? }) }`
    /// - Example: `{ priority = 1, lifetime = 30m, rest = { authentication-domain = dns.tarnfell.example, addresses = ["2001:db8:64::53"] } }`
    /// - Its octets: `00:01:00:00:07:08:00:16:03:64:6e:73:08:74:61:72:6e:66:65:6c:6c:07:65:78 … (54 octets)`
    /// - Sent by: routers
    #[doc(alias("dns", "dot", "doh"))]
    ENCRYPTED_DNS: Value = 144,
}
