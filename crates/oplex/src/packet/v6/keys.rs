//! Generated from the standard codebook: do not edit. `cargo run -p xtask -- generate` writes it anew.

use crate::prelude::*;
use core::net::Ipv6Addr;
use core::time::Duration;

use crate::layout::Value;
use crate::packet::{ClientFqdn, DelegatedPrefix, IaNa, IaPd, LeasedAddress, StatusCode};
use crate::packet::typed::keys;

keys! { V6
    /// Who the client is, for ever: its DUID.
    ///
    /// - Option: `v6:1` (`clientid`), RFC 8415, section 21.2
    /// - Layout: `duid`
    /// - Example: `00:03:00:01:02:00:5e:00:53:11`
    /// - Its octets: `00:03:00:01:02:00:5e:00:53:11`
    /// - Sent by: clients and servers, automatically: no plan sends it
    /// - Stands in: `v6:44`, `v6:45`
    CLIENTID: Value = 1,
    /// Which server this is, for ever: its DUID.
    ///
    /// - Option: `v6:2` (`serverid`), RFC 8415, section 21.3
    /// - Layout: `duid`
    /// - Example: `00:03:00:01:00:00:5e:00:53:01`
    /// - Its octets: `00:03:00:01:00:00:5e:00:53:01`
    /// - Sent by: clients and servers, automatically: no plan sends it
    SERVERID: Value = 2,
    /// An identity association: addresses that are leased together.
    ///
    /// - Option: `v6:3` (`ia-na`), RFC 8415, section 21.4
    /// - Layout: `{ iaid: u32, t1: seconds, t2: seconds, options: options(v6)* }`
    /// - Example: `{ iaid = 1, t1 = 4h, t2 = 6h24m, options = { iaaddr = { address = 2001:db8:64:10::20, preferred-lifetime = 8h, valid-lifetime = 12h, options = {} } } }`
    /// - Its octets: `00:00:00:01:00:00:38:40:00:00:5a:00:00:05:00:18:20:01:0d:b8:00:64:00:10 … (40 octets)`
    /// - Sent by: clients and servers, automatically: no plan sends it
    /// - Stands in: `v6:45`
    IA_NA: IaNa = 3,
    /// An identity association of addresses that are never renewed.
    ///
    /// - Option: `v6:4` (`ia-ta`), RFC 8415, section 21.5
    /// - Layout: `{ iaid: u32, options: options(v6)* }`
    /// - Example: `{ iaid = 1, options = {} }`
    /// - Its octets: `00:00:00:01`
    /// - Sent by: clients and servers, automatically: no plan sends it
    /// - Stands in: `v6:45`
    IA_TA: Value = 4,
    /// One address in an identity association, with its lifetimes.
    ///
    /// - Option: `v6:5` (`iaaddr`), RFC 8415, section 21.6
    /// - Layout: `{ address: ipv6 as any, preferred-lifetime: seconds, valid-lifetime: seconds, options: options(v6)* }`
    /// - Example: `{ address = 2001:db8:64:10::20, preferred-lifetime = 8h, valid-lifetime = 12h, options = {} }`
    /// - Its octets: `20:01:0d:b8:00:64:00:10:00:00:00:00:00:00:00:20:00:00:70:80:00:00:a8:c0`
    /// - Sent by: clients and servers, automatically: no plan sends it
    /// - Stands in: `v6:3`, `v6:4`, `v6:44`, `v6:45`
    IAADDR: LeasedAddress = 5,
    /// What the client requests, as codes.
    ///
    /// - Option: `v6:6` (`oro`), RFC 8415, section 21.7
    /// - Layout: `(u16 code v6)*`
    /// - Example: `23, 24`
    /// - Its octets: `00:17:00:18`
    /// - Sent by: clients, automatically: no plan sends it
    /// - Stands in: `v6:44`
    ORO: Vec<u16> = 6,
    /// Which server the client should choose: the highest; 255 at once.
    ///
    /// - Option: `v6:7` (`preference`), RFC 8415, section 21.8
    /// - Layout: `u8`
    /// - Example: `255`
    /// - Its octets: `ff`
    /// - Sent by: servers
    PREFERENCE: u8 = 7,
    /// How long the client has been trying, in hundredths of a second.
    ///
    /// - Option: `v6:8` (`elapsed-time`), RFC 8415, section 21.9
    /// - Layout: `u16 unit centiseconds`
    /// - Example: `0`
    /// - Its octets: `00:00`
    /// - Sent by: clients, automatically: no plan sends it
    ELAPSED_TIME: u16 = 8,
    /// The message that a relay relays, whole.
    ///
    /// - Option: `v6:9` (`relay-msg`), RFC 8415, section 21.10
    /// - Layout: `bytes{4..}`
    /// - Example: `0b:01:02:03`
    /// - Its octets: `0b:01:02:03`
    /// - Sent by: relay agents, automatically: no plan sends it
    RELAY_MSG: Vec<u8> = 9,
    /// Proves who sent the message, and that it is not an old one.
    ///
    /// - Option: `v6:11` (`auth`), RFC 8415, section 21.11
    /// - Layout: `{ protocol: u8 of v6-authentication-protocol, algorithm: u8, rdm: u8 of replay-detection, replay-detection: u64, information: by protocol { 3 => { type: u8 of { reconfigure-key = 1, hmac-md5 = 2 }, value: bytes{16} }, else => bytes* } }`
    /// - Example: `{ protocol = reconfigure-key, algorithm = 1, rdm = monotonic-counter, replay-detection = 7, information = { type = hmac-md5, value = 00:01:02:03:04:05:06:07:08:09:0a:0b:0c:0d:0e:0f } }`
    /// - Its octets: `03:01:00:00:00:00:00:00:00:00:07:02:00:01:02:03:04:05:06:07:08:09:0a:0b … (28 octets)`
    /// - Sent by: clients and servers, automatically: no plan sends it
    AUTH: Value = 11,
    /// The server's address, for clients that may send to it alone.
    ///
    /// - Option: `v6:12` (`unicast`), RFC 8415, section 21.12
    /// - Layout: `ipv6`
    /// - Example: `2001:db8:64::67`
    /// - Its octets: `20:01:0d:b8:00:64:00:00:00:00:00:00:00:00:00:67`
    /// - Sent by: servers
    UNICAST: Ipv6Addr = 12,
    /// How it went: for the message, or for what the option stands in.
    ///
    /// - Option: `v6:13` (`status-code`), RFC 8415, section 21.13
    /// - Layout: `{ status: u16 of v6-status, message: utf8* }`
    /// - Example: `{ status = NoAddrsAvail, message = none left }`
    /// - Its octets: `00:02:6e:6f:6e:65:20:6c:65:66:74`
    /// - Sent by: clients and servers, automatically: no plan sends it
    /// - Stands in: `v6:3`, `v6:4`, `v6:5`, `v6:25`, `v6:26`, `v6:45`, `v6:138`
    STATUS_CODE: StatusCode = 13,
    /// The client requests, or the server gives, all in two messages instead of four.
    ///
    /// - Option: `v6:14` (`rapid-commit`), RFC 8415, section 21.14
    /// - Layout: `empty`
    /// - Example: `true`
    /// - Its octets: ``
    /// - Sent by: clients and servers
    RAPID_COMMIT: Value = 14,
    /// Classes that the client's user put it into.
    ///
    /// - Option: `v6:15` (`user-class`), RFC 8415, section 21.15
    /// - Layout: `len16(bytes*)+`
    /// - Example: `61:62`
    /// - Its octets: `00:02:61:62`
    /// - Sent by: clients and servers, automatically: no plan sends it
    USER_CLASS: Value = 15,
    /// What the client's vendor says it is.
    ///
    /// - Option: `v6:16` (`vendor-class`), RFC 8415, section 21.16
    /// - Layout: `{ enterprise: u32, classes: len16(bytes*)+ }`
    /// - Example: `{ enterprise = 32473, classes = [54:65:72:6e] }`
    /// - Its octets: `00:00:7e:d9:00:04:54:65:72:6e`
    /// - Sent by: clients and servers, automatically: no plan sends it
    VENDOR_CLASS: Value = 16,
    /// Options of one vendor, by its enterprise number.
    ///
    /// - Option: `v6:17` (`vendor-opts`), RFC 8415, section 21.17
    /// - Layout: `{ enterprise: u32, options: options(v6-vendor by enterprise)* }`
    /// - Example: `{ enterprise = 32473, options = {} }`
    /// - Its octets: `00:00:7e:d9`
    /// - Sent by: clients and servers
    #[doc(alias("vendor"))]
    VENDOR_OPTS: Value = 17,
    /// The relay's interface that the client is behind; the server gives it back.
    ///
    /// - Option: `v6:18` (`interface-id`), RFC 8415, section 21.18
    /// - Layout: `bytes*`
    /// - Example: `70:6f:72:74:37`
    /// - Its octets: `70:6f:72:74:37`
    /// - Sent by: relay agents, automatically: no plan sends it
    INTERFACE_ID: Vec<u8> = 18,
    /// What the client must do, in a Reconfigure.
    ///
    /// - Option: `v6:19` (`reconf-msg`), RFC 8415, section 21.19
    /// - Layout: `u8 of { renew = 5, rebind = 6, information-request = 11 }`
    /// - Example: `renew`
    /// - Its octets: `05`
    /// - Sent by: servers, automatically: no plan sends it
    RECONF_MSG: u8 = 19,
    /// The client accepts Reconfigure, or the server will send it.
    ///
    /// - Option: `v6:20` (`reconf-accept`), RFC 8415, section 21.20
    /// - Layout: `empty`
    /// - Example: `true`
    /// - Its octets: ``
    /// - Sent by: clients and servers
    RECONF_ACCEPT: Value = 20,
    /// SIP servers by name, best first.
    ///
    /// - Option: `v6:21` (`sip-server-d`), RFC 3319, section 3.1
    /// - Layout: `name+`
    /// - Example: `sip.tarnfell.example`
    /// - Its octets: `03:73:69:70:08:74:61:72:6e:66:65:6c:6c:07:65:78:61:6d:70:6c:65:00`
    /// - Sent by: servers
    SIP_SERVER_D: Vec<String> = 21,
    /// SIP servers by address, best first.
    ///
    /// - Option: `v6:22` (`sip-server-a`), RFC 3319, section 3.2
    /// - Layout: `ipv6+`
    /// - Example: `2001:db8:64::70`
    /// - Its octets: `20:01:0d:b8:00:64:00:00:00:00:00:00:00:00:00:70`
    /// - Sent by: servers
    SIP_SERVER_A: Vec<Ipv6Addr> = 22,
    /// DNS servers, best first.
    ///
    /// - Option: `v6:23` (`dns-servers`), RFC 3646, section 3
    /// - Layout: `ipv6+`
    /// - Example: `2001:db8:64::53, 2001:db8:64::54`
    /// - Its octets: `20:01:0d:b8:00:64:00:00:00:00:00:00:00:00:00:53:20:01:0d:b8:00:64:00:00 … (32 octets)`
    /// - Sent by: servers
    #[doc(alias("dns", "resolver"))]
    DNS_SERVERS: Vec<Ipv6Addr> = 23,
    /// Domains that short names are searched in, in this order.
    ///
    /// - Option: `v6:24` (`domain-list`), RFC 3646, section 4
    /// - Layout: `name+`
    /// - Example: `tarnfell.example, domes.tarnfell.example`
    /// - Its octets: `08:74:61:72:6e:66:65:6c:6c:07:65:78:61:6d:70:6c:65:00:05:64:6f:6d:65:73 … (42 octets)`
    /// - Sent by: servers
    #[doc(alias("domain-search", "search"))]
    DOMAIN_LIST: Vec<String> = 24,
    /// An identity association of prefixes that a router may delegate.
    ///
    /// - Option: `v6:25` (`ia-pd`), RFC 8415, section 21.21
    /// - Layout: `{ iaid: u32, t1: seconds, t2: seconds, options: options(v6)* }`
    /// - Example: `{ iaid = 1, t1 = 4h, t2 = 6h24m, options = { iaprefix = { preferred-lifetime = 8h, valid-lifetime = 12h, prefix-length = 56, prefix = "2001:db8:64:100::", options = {} } } }`
    /// - Its octets: `00:00:00:01:00:00:38:40:00:00:5a:00:00:1a:00:19:00:00:70:80:00:00:a8:c0 … (41 octets)`
    /// - Sent by: clients and servers, automatically: no plan sends it
    /// - Stands in: `v6:45`
    #[doc(alias("delegation", "pd"))]
    IA_PD: IaPd = 25,
    /// One prefix in an identity association, with its lifetimes.
    ///
    /// - Option: `v6:26` (`iaprefix`), RFC 8415, section 21.22
    /// - Layout: `{ preferred-lifetime: seconds, valid-lifetime: seconds, prefix-length: u8 in 0..=128, prefix: ipv6 as network, options: options(v6)* }`
    /// - Example: `{ preferred-lifetime = 8h, valid-lifetime = 12h, prefix-length = 56, prefix = "2001:db8:64:100::", options = {} }`
    /// - Its octets: `00:00:70:80:00:00:a8:c0:38:20:01:0d:b8:00:64:01:00:00:00:00:00:00:00:00 … (25 octets)`
    /// - Sent by: clients and servers, automatically: no plan sends it
    /// - Stands in: `v6:25`, `v6:45`
    IAPREFIX: DelegatedPrefix = 26,
    /// NIS servers, best first.
    ///
    /// - Option: `v6:27` (`nis-servers`), RFC 3898, section 3
    /// - Layout: `ipv6+`
    /// - Example: `2001:db8:64::71`
    /// - Its octets: `20:01:0d:b8:00:64:00:00:00:00:00:00:00:00:00:71`
    /// - Sent by: servers
    NIS_SERVERS: Vec<Ipv6Addr> = 27,
    /// NIS+ servers, best first.
    ///
    /// - Option: `v6:28` (`nisp-servers`), RFC 3898, section 4
    /// - Layout: `ipv6+`
    /// - Example: `2001:db8:64::72`
    /// - Its octets: `20:01:0d:b8:00:64:00:00:00:00:00:00:00:00:00:72`
    /// - Sent by: servers
    NISP_SERVERS: Vec<Ipv6Addr> = 28,
    /// The client's NIS domain.
    ///
    /// - Option: `v6:29` (`nis-domain-name`), RFC 3898, section 5
    /// - Layout: `name`
    /// - Example: `nis.tarnfell.example`
    /// - Its octets: `03:6e:69:73:08:74:61:72:6e:66:65:6c:6c:07:65:78:61:6d:70:6c:65:00`
    /// - Sent by: servers
    NIS_DOMAIN_NAME: String = 29,
    /// The client's NIS+ domain.
    ///
    /// - Option: `v6:30` (`nisp-domain-name`), RFC 3898, section 6
    /// - Layout: `name`
    /// - Example: `nisp.tarnfell.example`
    /// - Its octets: `04:6e:69:73:70:08:74:61:72:6e:66:65:6c:6c:07:65:78:61:6d:70:6c:65:00`
    /// - Sent by: servers
    NISP_DOMAIN_NAME: String = 30,
    /// SNTP servers, best first.
    ///
    /// - Option: `v6:31` (`sntp-servers`), RFC 4075, section 4
    /// - Layout: `ipv6+`
    /// - Example: `2001:db8:64::123`
    /// - Its octets: `20:01:0d:b8:00:64:00:00:00:00:00:00:00:00:01:23`
    /// - Sent by: servers
    /// - Status: deprecated; replaced by `v6:56`
    #[doc(alias("time"))]
    SNTP_SERVERS: Vec<Ipv6Addr> = 31,
    /// Seconds after which a client without an address requests its settings again; 4294967295 is never.
    ///
    /// - Option: `v6:32` (`information-refresh-time`), RFC 8415, section 21.23
    /// - Layout: `seconds in 600..`
    /// - Example: `86400`
    /// - Its octets: `00:01:51:80`
    /// - Sent by: servers
    #[doc(alias("refresh"))]
    INFORMATION_REFRESH_TIME: Duration = 32,
    /// Broadcast and multicast service controllers by name.
    ///
    /// - Option: `v6:33` (`bcmcs-server-d`), RFC 4280, section 4.2
    /// - Layout: `name+`
    /// - Example: `bcmcs.tarnfell.example`
    /// - Its octets: `05:62:63:6d:63:73:08:74:61:72:6e:66:65:6c:6c:07:65:78:61:6d:70:6c:65:00`
    /// - Sent by: servers
    BCMCS_SERVER_D: Vec<String> = 33,
    /// Broadcast and multicast service controllers by address.
    ///
    /// - Option: `v6:34` (`bcmcs-server-a`), RFC 4280, section 4.4
    /// - Layout: `ipv6+`
    /// - Example: `2001:db8:64::73`
    /// - Its octets: `20:01:0d:b8:00:64:00:00:00:00:00:00:00:00:00:73`
    /// - Sent by: servers
    BCMCS_SERVER_A: Vec<Ipv6Addr> = 34,
    /// A postal address.
    ///
    /// - Option: `v6:36` (`geoconf-civic`), RFC 4776, section 3.2
    /// - Layout: `{ what: u8 of { dhcp-server = 0, network-element = 1, client = 2 }, country: text{2}, elements: { catype: u8 of civic, value: len8(utf8*) }* }`
    /// - Example: `{ what = client, country = NO, elements = [{ catype = a3, value = Fell }] }`
    /// - Its octets: `02:4e:4f:03:04:46:65:6c:6c`
    /// - Sent by: servers
    GEOCONF_CIVIC: Value = 36,
    /// The remote end of the line that the client is on, as its relay knows it.
    ///
    /// - Option: `v6:37` (`remote-id`), RFC 4649, section 3
    /// - Layout: `{ enterprise: u32, remote-id: bytes }`
    /// - Example: `{ enterprise = 32473, remote-id = 02:00:5e:00:53:fe }`
    /// - Its octets: `00:00:7e:d9:02:00:5e:00:53:fe`
    /// - Sent by: relay agents, automatically: no plan sends it
    /// - Stands in: `v6:44`
    REMOTE_ID: Value = 37,
    /// The subscriber that the client belongs to, as its relay knows it.
    ///
    /// - Option: `v6:38` (`subscriber-id`), RFC 4580, section 2
    /// - Layout: `bytes`
    /// - Example: `61:62`
    /// - Its octets: `61:62`
    /// - Sent by: relay agents, automatically: no plan sends it
    SUBSCRIBER_ID: Vec<u8> = 38,
    /// The client's full name, and who puts it into DNS.
    ///
    /// - Option: `v6:39` (`client-fqdn`), RFC 4704, section 4
    /// - Layout: `{ flags: u8 flags { s = 1, o = 2, n = 4 }, name: partial-name }`
    /// - Example: `{ flags = s, name = dome-3.tarnfell.example }`
    /// - Its octets: `01:06:64:6f:6d:65:2d:33:08:74:61:72:6e:66:65:6c:6c:07:65:78:61:6d:70:6c … (25 octets)`
    /// - Sent by: clients and servers, automatically: no plan sends it
    CLIENT_FQDN: ClientFqdn = 39,
    /// PANA authentication agents, best first.
    ///
    /// - Option: `v6:40` (`pana-agent`), RFC 5192, section 5
    /// - Layout: `ipv6+`
    /// - Example: `2001:db8:64::74`
    /// - Its octets: `20:01:0d:b8:00:64:00:00:00:00:00:00:00:00:00:74`
    /// - Sent by: servers
    PANA_AGENT: Vec<Ipv6Addr> = 40,
    /// The time zone as a POSIX rule.
    ///
    /// - Option: `v6:41` (`new-posix-timezone`), RFC 4833, section 3
    /// - Layout: `text`
    /// - Example: `CET-1CEST,M3.5.0,M10.5.0/3`
    /// - Its octets: `43:45:54:2d:31:43:45:53:54:2c:4d:33:2e:35:2e:30:2c:4d:31:30:2e:35:2e:30 … (26 octets)`
    /// - Sent by: servers
    NEW_POSIX_TIMEZONE: String = 41,
    /// The time zone by its name in the TZ database.
    ///
    /// - Option: `v6:42` (`new-tzdb-timezone`), RFC 4833, section 3
    /// - Layout: `text`
    /// - Example: `Europe/Zurich`
    /// - Its octets: `45:75:72:6f:70:65:2f:5a:75:72:69:63:68`
    /// - Sent by: servers
    NEW_TZDB_TIMEZONE: String = 42,
    /// Options that the relay requests back from the server.
    ///
    /// - Option: `v6:43` (`ero`), RFC 4994, section 3
    /// - Layout: `(u16 code v6)*`
    /// - Example: `37, 38`
    /// - Its octets: `00:25:00:26`
    /// - Sent by: relay agents, automatically: no plan sends it
    ERO: Vec<u16> = 43,
    /// The key of a lease query.
    ///
    /// - Option: `v6:44` (`lq-query`), RFC 5007, section 4.1.2.1
    /// - Layout: `{ query-type: u8 of v6-query-type, link-address: ipv6 as network, options: options(v6)* }`
    /// - Example: `{ query-type = by-address, link-address = "::", options = { iaaddr = { address = 2001:db8:64:10::20, preferred-lifetime = 0s, valid-lifetime = 0s, options = {} } } }`
    /// - Its octets: `01:00:00:00:00:00:00:00:00:00:00:00:00:00:00:00:00:00:05:00:18:20:01:0d … (45 octets)`
    /// - Sent by: clients and servers, automatically: no plan sends it
    LQ_QUERY: Value = 44,
    /// All that a lease query finds about one client.
    ///
    /// - Option: `v6:45` (`client-data`), RFC 5007, section 4.1.2.2
    /// - Layout: `options(v6)*`
    /// - Example: `{ clientid = 00:03:00:01:02:00:5e:00:53:11 }`
    /// - Its octets: `00:01:00:0a:00:03:00:01:02:00:5e:00:53:11`
    /// - Sent by: clients and servers, automatically: no plan sends it
    CLIENT_DATA: Value = 45,
    /// Seconds since the server last heard of the client.
    ///
    /// - Option: `v6:46` (`clt-time`), RFC 5007, section 4.1.2.3
    /// - Layout: `u32 unit seconds`
    /// - Example: `60`
    /// - Its octets: `00:00:00:3c`
    /// - Sent by: clients and servers, automatically: no plan sends it
    /// - Stands in: `v6:45`
    CLT_TIME: u32 = 46,
    /// The relay's part of the message that the client last sent.
    ///
    /// - Option: `v6:47` (`lq-relay-data`), RFC 5007, section 4.1.2.4
    /// - Layout: `{ peer-address: ipv6, message: bytes{34..} }`
    /// - Sent by: clients and servers, automatically: no plan sends it
    /// - Stands in: `v6:45`
    LQ_RELAY_DATA: Value = 47,
    /// Links on which the client has bindings.
    ///
    /// - Option: `v6:48` (`lq-client-link`), RFC 5007, section 4.1.2.5
    /// - Layout: `ipv6+`
    /// - Example: `2001:db8:64:10::1`
    /// - Its octets: `20:01:0d:b8:00:64:00:10:00:00:00:00:00:00:00:01`
    /// - Sent by: clients and servers, automatically: no plan sends it
    LQ_CLIENT_LINK: Vec<Ipv6Addr> = 48,
    /// A home network that a mobile node queries.
    ///
    /// - Option: `v6:49` (`mip6-hnidf`), RFC 6610, section 3.1
    /// - Layout: `name`
    /// - Example: `home.tarnfell.example`
    /// - Its octets: `04:68:6f:6d:65:08:74:61:72:6e:66:65:6c:6c:07:65:78:61:6d:70:6c:65:00`
    /// - Sent by: clients and servers
    /// - Stands in: `v6:69`
    MIP6_HNIDF: String = 49,
    /// Home network information of the visited network.
    ///
    /// - Option: `v6:50` (`mip6-vdinf`), RFC 6610, section 3.2.1
    /// - Layout: `options(v6)`
    /// - Example: `{ mip6-haf = agent.tarnfell.example }`
    /// - Its octets: `00:49:00:18:05:61:67:65:6e:74:08:74:61:72:6e:66:65:6c:6c:07:65:78:61:6d … (28 octets)`
    /// - Sent by: servers
    /// - Stands in: `v6:66`
    MIP6_VDINF: Value = 50,
    /// The server that finds services by location (LoST).
    ///
    /// - Option: `v6:51` (`v6-lost`), RFC 5223, section 5
    /// - Layout: `name`
    /// - Example: `lost.tarnfell.example`
    /// - Its octets: `04:6c:6f:73:74:08:74:61:72:6e:66:65:6c:6c:07:65:78:61:6d:70:6c:65:00`
    /// - Sent by: servers
    V6_LOST: String = 51,
    /// Controllers of access points (CAPWAP), best first.
    ///
    /// - Option: `v6:52` (`capwap-ac-v6`), RFC 5417, section 3
    /// - Layout: `ipv6+`
    /// - Example: `2001:db8:64::90, 2001:db8:64::91`
    /// - Its octets: `20:01:0d:b8:00:64:00:00:00:00:00:00:00:00:00:90:20:01:0d:b8:00:64:00:00 … (32 octets)`
    /// - Sent by: servers
    #[doc(alias("access-point", "wifi"))]
    CAPWAP_AC_V6: Vec<Ipv6Addr> = 52,
    /// Which relay this is, for ever: its DUID.
    ///
    /// - Option: `v6:53` (`relay-id`), RFC 5460, section 5.4.1
    /// - Layout: `duid`
    /// - Example: `00:03:00:01:00:00:5e:00:53:02`
    /// - Its octets: `00:03:00:01:00:00:5e:00:53:02`
    /// - Sent by: relay agents, automatically: no plan sends it
    /// - Stands in: `v6:44`
    RELAY_ID: Value = 53,
    /// Mobility servers by address.
    ///
    /// - Option: `v6:54` (`ipv6-address-mos`), RFC 5678, section 4
    /// - Layout: `options(v6-mos-address)*`
    /// - Example: `{ is = 2001:db8:64::75 }`
    /// - Its octets: `00:01:00:10:20:01:0d:b8:00:64:00:00:00:00:00:00:00:00:00:75`
    /// - Sent by: clients and servers
    IPV6_ADDRESS_MOS: Value = 54,
    /// Mobility servers by name.
    ///
    /// - Option: `v6:55` (`ipv6-fqdn-mos`), RFC 5678, section 5
    /// - Layout: `options(v6-mos-name)*`
    /// - Example: `{ is = mos.tarnfell.example }`
    /// - Its octets: `00:01:00:16:03:6d:6f:73:08:74:61:72:6e:66:65:6c:6c:07:65:78:61:6d:70:6c … (26 octets)`
    /// - Sent by: clients and servers
    IPV6_FQDN_MOS: Value = 55,
    /// One NTP server: its address, a multicast group or its name.
    ///
    /// - Option: `v6:56` (`ntp-server`), RFC 5908, section 4
    /// - Layout: `options(ntp)`
    /// - Example: `{ srv-addr = 2001:db8:64::123 }`
    /// - Its octets: `00:01:00:10:20:01:0d:b8:00:64:00:00:00:00:00:00:00:00:01:23`
    /// - Sent by: servers
    #[doc(alias("time"))]
    NTP_SERVER: Value = 56,
    /// The domain of the access network, to find location servers by.
    ///
    /// - Option: `v6:57` (`v6-access-domain`), RFC 5986, section 3.3
    /// - Layout: `name`
    /// - Example: `access.tarnfell.example`
    /// - Its octets: `06:61:63:63:65:73:73:08:74:61:72:6e:66:65:6c:6c:07:65:78:61:6d:70:6c:65 … (25 octets)`
    /// - Sent by: servers
    V6_ACCESS_DOMAIN: String = 57,
    /// Domains of SIP user agent configuration.
    ///
    /// - Option: `v6:58` (`sip-ua-cs-list`), RFC 6011, section 4.2
    /// - Layout: `name+`
    /// - Example: `sip.tarnfell.example`
    /// - Its octets: `03:73:69:70:08:74:61:72:6e:66:65:6c:6c:07:65:78:61:6d:70:6c:65:00`
    /// - Sent by: servers
    SIP_UA_CS_LIST: Vec<String> = 58,
    /// The boot file, as a URL.
    ///
    /// - Option: `v6:59` (`bootfile-url`), RFC 5970, section 3.1
    /// - Layout: `uri`
    /// - Example: `http://boot.tarnfell.example/domes/controller.efi`
    /// - Its octets: `68:74:74:70:3a:2f:2f:62:6f:6f:74:2e:74:61:72:6e:66:65:6c:6c:2e:65:78:61 … (49 octets)`
    /// - Sent by: servers
    #[doc(alias("boot-file", "boot"))]
    BOOTFILE_URL: String = 59,
    /// Parameters for the boot file, in their order.
    ///
    /// - Option: `v6:60` (`bootfile-param`), RFC 5970, section 3.2
    /// - Layout: `len16(utf8*)+`
    /// - Example: `root=/dev/nfs, quiet`
    /// - Its octets: `00:0d:72:6f:6f:74:3d:2f:64:65:76:2f:6e:66:73:00:05:71:75:69:65:74`
    /// - Sent by: servers
    #[doc(alias("boot"))]
    BOOTFILE_PARAM: Value = 60,
    /// The architectures the client boots by, best first.
    ///
    /// - Option: `v6:61` (`client-arch-type`), RFC 5970, section 3.3
    /// - Layout: `(u16 of architecture)+`
    /// - Example: `x64-uefi`
    /// - Its octets: `00:07`
    /// - Sent by: clients and servers, automatically: no plan sends it
    #[doc(alias("boot"))]
    CLIENT_ARCH_TYPE: Vec<u16> = 61,
    /// The client's network boot interface and its version.
    ///
    /// - Option: `v6:62` (`nii`), RFC 5970, section 3.4
    /// - Layout: `{ type: u8, major: u8, minor: u8 }`
    /// - Example: `{ type = 1, major = 3, minor = 16 }`
    /// - Its octets: `01:03:10`
    /// - Sent by: clients, automatically: no plan sends it
    #[doc(alias("boot"))]
    NII: Value = 62,
    /// Where the client is: latitude, longitude, altitude.
    ///
    /// - Option: `v6:63` (`geolocation`), RFC 6225, section 2.1
    /// - Layout: `bits { latuncertainty: 6 in 0..=34, latitude: s9.25 in -90..=90, longuncertainty: 6 in 0..=34, longitude: s9.25 in -180..=180, atype: 4 of altitude-type, altuncertainty: 6, altitude: s22.8, version: 2, reserved: 3, datum: 3 of datum }`
    /// - Example: `{ latuncertainty = 18, latitude = 62.5, longuncertainty = 18, longitude = 6.25, atype = metres, altuncertainty = 10, altitude = 1200, version = 1, datum = wgs84 }`
    /// - Its octets: `48:7d:00:00:00:48:0c:80:00:00:12:80:04:b0:00:41`
    /// - Sent by: servers
    GEOLOCATION: Value = 63,
    /// The far end of the client's IPv4 tunnel (DS-Lite).
    ///
    /// - Option: `v6:64` (`aftr-name`), RFC 6334, section 3
    /// - Layout: `name`
    /// - Example: `aftr.tarnfell.example`
    /// - Its octets: `04:61:66:74:72:08:74:61:72:6e:66:65:6c:6c:07:65:78:61:6d:70:6c:65:00`
    /// - Sent by: servers
    AFTR_NAME: String = 64,
    /// The domain for re-authentication of a roaming client.
    ///
    /// - Option: `v6:65` (`erp-local-domain-name`), RFC 6440, section 3.1
    /// - Layout: `name`
    /// - Example: `erp.tarnfell.example`
    /// - Its octets: `03:65:72:70:08:74:61:72:6e:66:65:6c:6c:07:65:78:61:6d:70:6c:65:00`
    /// - Sent by: servers
    /// - Stands in: `v6:66`
    ERP_LOCAL_DOMAIN_NAME: String = 65,
    /// Options that a relay supplies for the server to send to the client.
    ///
    /// - Option: `v6:66` (`rsoo`), RFC 6422, section 3
    /// - Layout: `options(v6)`
    /// - Example: `{ erp-local-domain-name = erp.tarnfell.example }`
    /// - Its octets: `00:41:00:16:03:65:72:70:08:74:61:72:6e:66:65:6c:6c:07:65:78:61:6d:70:6c … (26 octets)`
    /// - Sent by: relay agents, automatically: no plan sends it
    RSOO: Value = 66,
    /// A prefix that is not part of the delegated one it stands in.
    ///
    /// - Option: `v6:67` (`pd-exclude`), RFC 6603, section 4.2
    /// - Layout: `{ prefix-length: u8 in 1..=128, subnet-id: bytes{1..16} }`
    /// - Example: `{ prefix-length = 64, subnet-id = 01 }`
    /// - Its octets: `40:01`
    /// - Sent by: clients and servers, automatically: no plan sends it
    /// - Stands in: `v6:26`
    PD_EXCLUDE: Value = 67,
    /// The virtual network that the client or the request belongs to.
    ///
    /// - Option: `v6:68` (`vss`), RFC 6607, section 3.4
    /// - Layout: `{ type: u8 of vpn-kind, info: by type { 0 => text*, 1 => bytes{7}, 255 => empty, else => bytes* } }`
    /// - Example: `{ type = vpn-name, info = domes }`
    /// - Its octets: `00:64:6f:6d:65:73`
    /// - Sent by: clients and servers, automatically: no plan sends it
    /// - Stands in: `v6:45`
    VSS: Value = 68,
    /// Home network information of a network that the client named.
    ///
    /// - Option: `v6:69` (`mip6-idinf`), RFC 6610, section 3.2.2
    /// - Layout: `options(v6)`
    /// - Example: `{ mip6-hnidf = home.tarnfell.example, mip6-haf = agent.tarnfell.example }`
    /// - Its octets: `00:31:00:17:04:68:6f:6d:65:08:74:61:72:6e:66:65:6c:6c:07:65:78:61:6d:70 … (55 octets)`
    /// - Sent by: servers
    /// - Stands in: `v6:66`
    MIP6_IDINF: Value = 69,
    /// Home network information by the client's own realm.
    ///
    /// - Option: `v6:70` (`mip6-udinf`), RFC 6610, section 3.2.3
    /// - Layout: `options(v6)`
    /// - Example: `{ mip6-haf = agent.tarnfell.example }`
    /// - Its octets: `00:49:00:18:05:61:67:65:6e:74:08:74:61:72:6e:66:65:6c:6c:07:65:78:61:6d … (28 octets)`
    /// - Sent by: servers
    /// - Stands in: `v6:66`
    MIP6_UDINF: Value = 70,
    /// A prefix of the home network.
    ///
    /// - Option: `v6:71` (`mip6-hnp`), RFC 6610, section 3.3
    /// - Layout: `{ prefix-length: u8 in 0..=128, prefix: bytes{0..16} }`
    /// - Example: `{ prefix-length = 64, prefix = 20:01:0d:b8:00:64:00:10 }`
    /// - Its octets: `40:20:01:0d:b8:00:64:00:10`
    /// - Sent by: servers
    /// - Stands in: `v6:50`, `v6:69`, `v6:70`
    MIP6_HNP: Value = 71,
    /// A home agent, by address.
    ///
    /// - Option: `v6:72` (`mip6-haa`), RFC 6610, section 3.4
    /// - Layout: `ipv6`
    /// - Example: `2001:db8:64::76`
    /// - Its octets: `20:01:0d:b8:00:64:00:00:00:00:00:00:00:00:00:76`
    /// - Sent by: servers
    /// - Stands in: `v6:50`, `v6:69`, `v6:70`
    MIP6_HAA: Ipv6Addr = 72,
    /// A home agent, by name.
    ///
    /// - Option: `v6:73` (`mip6-haf`), RFC 6610, section 3.5
    /// - Layout: `name`
    /// - Example: `agent.tarnfell.example`
    /// - Its octets: `05:61:67:65:6e:74:08:74:61:72:6e:66:65:6c:6c:07:65:78:61:6d:70:6c:65:00`
    /// - Sent by: servers
    /// - Stands in: `v6:50`, `v6:69`, `v6:70`
    MIP6_HAF: String = 73,
    /// A DNS server, and the domains to resolve with it.
    ///
    /// - Option: `v6:74` (`rdnss-selection`), RFC 6731, section 4.2
    /// - Layout: `{ server: ipv6, preference: bits { reserved: 6, prf: 2 of rdnss-preference }, domains: name+ }`
    /// - Example: `{ server = 2001:db8:64::53, preference = { prf = high }, domains = [tarnfell.example] }`
    /// - Its octets: `20:01:0d:b8:00:64:00:00:00:00:00:00:00:00:00:53:01:08:74:61:72:6e:66:65 … (35 octets)`
    /// - Sent by: servers
    RDNSS_SELECTION: Value = 74,
    /// The client's Kerberos principal, in ASN.1.
    ///
    /// - Option: `v6:75` (`krb-principal-name`), RFC 6784, section 3.1
    /// - Layout: `bytes`
    /// - Example: `30:00`
    /// - Its octets: `30:00`
    /// - Sent by: clients, automatically: no plan sends it
    KRB_PRINCIPAL_NAME: Vec<u8> = 75,
    /// A Kerberos realm, in ASN.1.
    ///
    /// - Option: `v6:76` (`krb-realm-name`), RFC 6784, section 3.2
    /// - Layout: `bytes`
    /// - Example: `1b:00`
    /// - Its octets: `1b:00`
    /// - Sent by: clients, automatically: no plan sends it
    KRB_REALM_NAME: Vec<u8> = 76,
    /// The Kerberos realm for clients that know none, in ASN.1.
    ///
    /// - Option: `v6:77` (`krb-default-realm-name`), RFC 6784, section 3.3
    /// - Layout: `bytes`
    /// - Example: `1b:00`
    /// - Its octets: `1b:00`
    /// - Sent by: servers
    KRB_DEFAULT_REALM_NAME: Vec<u8> = 77,
    /// A Kerberos key distribution centre.
    ///
    /// - Option: `v6:78` (`krb-kdc`), RFC 6784, section 3.4
    /// - Layout: `{ priority: u16, weight: u16, transport: u8 of { udp = 1, tcp = 2, tls = 3 }, port: u16, address: ipv6, realm: bytes* }`
    /// - Example: `{ priority = 1, weight = 1, transport = tcp, port = 88, address = 2001:db8:64::88, realm = 1b:00 }`
    /// - Its octets: `00:01:00:01:02:00:58:20:01:0d:b8:00:64:00:00:00:00:00:00:00:00:00:88:1b … (25 octets)`
    /// - Sent by: servers
    KRB_KDC: Value = 78,
    /// The client's hardware address, as its relay sees it.
    ///
    /// - Option: `v6:79` (`client-linklayer-addr`), RFC 6939, section 4
    /// - Layout: `{ hardware-type: u16, address: bytes* }`
    /// - Example: `{ hardware-type = 1, address = 02:00:5e:00:53:11 }`
    /// - Its octets: `00:01:02:00:5e:00:53:11`
    /// - Sent by: relay agents, automatically: no plan sends it
    CLIENT_LINKLAYER_ADDR: Value = 79,
    /// The link that the clients to be reconfigured are on.
    ///
    /// - Option: `v6:80` (`link-address`), RFC 6977, section 5
    /// - Layout: `ipv6`
    /// - Example: `2001:db8:64:10::1`
    /// - Its octets: `20:01:0d:b8:00:64:00:10:00:00:00:00:00:00:00:01`
    /// - Sent by: relay agents, automatically: no plan sends it
    LINK_ADDRESS: Ipv6Addr = 80,
    /// What the relay agent learned about the client from a RADIUS server.
    ///
    /// - Option: `v6:81` (`radius`), RFC 7037, section 4
    /// - Layout: `{ type: u8 of v6-radius-attribute, value: len8+2(bytes) }+`
    /// - Example: `{ type = framed-ipv6-address, value = 20:01:0d:b8:00:64:00:10:00:00:00:00:00:00:00:20 }`
    /// - Its octets: `a8:12:20:01:0d:b8:00:64:00:10:00:00:00:00:00:00:00:20`
    /// - Sent by: relay agents, automatically: no plan sends it
    RADIUS: Value = 81,
    /// The longest wait between a client's Solicits, in seconds.
    ///
    /// - Option: `v6:82` (`sol-max-rt`), RFC 8415, section 21.24
    /// - Layout: `seconds in 60..=86400`
    /// - Example: `3600`
    /// - Its octets: `00:00:0e:10`
    /// - Sent by: servers
    #[doc(alias("retry"))]
    SOL_MAX_RT: Duration = 82,
    /// The longest wait between a client's Information-requests, in seconds.
    ///
    /// - Option: `v6:83` (`inf-max-rt`), RFC 8415, section 21.25
    /// - Layout: `seconds in 60..=86400`
    /// - Example: `3600`
    /// - Its octets: `00:00:0e:10`
    /// - Sent by: servers
    INF_MAX_RT: Duration = 83,
    /// How the client chooses among its addresses.
    ///
    /// - Option: `v6:84` (`addrsel`), RFC 7078, section 2
    /// - Layout: `{ flags: u8 flags { p = 1, a = 2 }, options: options(v6)* }`
    /// - Example: `{ flags = p, options = { addrsel-table = { label = 5, precedence = 50, prefix = 2001:db8:64::/48 } } }`
    /// - Its octets: `01:00:55:00:09:05:32:30:20:01:0d:b8:00:64`
    /// - Sent by: servers
    ADDRSEL: Value = 84,
    /// One row of the table for choosing addresses.
    ///
    /// - Option: `v6:85` (`addrsel-table`), RFC 7078, section 2
    /// - Layout: `{ label: u8, precedence: u8, prefix: prefix6 }`
    /// - Example: `{ label = 5, precedence = 50, prefix = 2001:db8:64::/48 }`
    /// - Its octets: `05:32:30:20:01:0d:b8:00:64`
    /// - Sent by: servers
    /// - Stands in: `v6:84`
    ADDRSEL_TABLE: Value = 85,
    /// A server of the Port Control Protocol, by its addresses.
    ///
    /// - Option: `v6:86` (`v6-pcp-server`), RFC 7291, section 3.1
    /// - Layout: `ipv6+`
    /// - Example: `2001:db8:64::77`
    /// - Its octets: `20:01:0d:b8:00:64:00:00:00:00:00:00:00:00:00:77`
    /// - Sent by: servers
    V6_PCP_SERVER: Vec<Ipv6Addr> = 86,
    /// A whole DHCPv4 message that travels over DHCPv6.
    ///
    /// - Option: `v6:87` (`dhcpv4-msg`), RFC 7341, section 7.1
    /// - Layout: `bytes{240..}`
    /// - Sent by: clients and servers, automatically: no plan sends it
    DHCPV4_MSG: Vec<u8> = 87,
    /// Servers for DHCPv4 over DHCPv6; none: the multicast address.
    ///
    /// - Option: `v6:88` (`dhcp4-o-dhcp6-server`), RFC 7341, section 7.2
    /// - Layout: `(ipv6 as any)*`
    /// - Example: `2001:db8:64::67`
    /// - Its octets: `20:01:0d:b8:00:64:00:00:00:00:00:00:00:00:00:67`
    /// - Sent by: servers
    DHCP4_O_DHCP6_SERVER: Vec<Ipv6Addr> = 88,
    /// A rule by which IPv4 addresses become IPv6 ones (MAP).
    ///
    /// - Option: `v6:89` (`s46-rule`), RFC 7598, section 4.1
    /// - Layout: `{ flags: u8 flags { f = 1 }, ea-len: u8 in 0..=48, ipv4-prefix-len: u8 in 0..=32, ipv4-prefix: ipv4 as network, ipv6-prefix: prefix6, options: options(v6)* }`
    /// - Example: `{ flags = f, ea-len = 16, ipv4-prefix-len = 24, ipv4-prefix = 192.0.2.0, ipv6-prefix = 2001:db8:64::/48, options = {} }`
    /// - Its octets: `01:10:18:c0:00:02:00:30:20:01:0d:b8:00:64`
    /// - Sent by: servers
    /// - Stands in: `v6:94`, `v6:95`
    S46_RULE: Value = 89,
    /// A border relay for IPv4 over IPv6.
    ///
    /// - Option: `v6:90` (`s46-br`), RFC 7598, section 4.2
    /// - Layout: `ipv6`
    /// - Example: `2001:db8:64::78`
    /// - Its octets: `20:01:0d:b8:00:64:00:00:00:00:00:00:00:00:00:78`
    /// - Sent by: servers
    /// - Stands in: `v6:94`, `v6:96`
    S46_BR: Ipv6Addr = 90,
    /// The prefix for translated addresses outside (MAP-T).
    ///
    /// - Option: `v6:91` (`s46-dmr`), RFC 7598, section 4.3
    /// - Layout: `prefix6`
    /// - Example: `2001:db8:64:ff00::/64`
    /// - Its octets: `40:20:01:0d:b8:00:64:ff:00`
    /// - Sent by: servers
    /// - Stands in: `v6:95`
    S46_DMR: Value = 91,
    /// A full or shared IPv4 address, bound to an IPv6 one.
    ///
    /// - Option: `v6:92` (`s46-v4v6bind`), RFC 7598, section 4.4
    /// - Layout: `{ ipv4-address: ipv4, ipv6-prefix: prefix6, options: options(v6)* }`
    /// - Example: `{ ipv4-address = 192.0.2.4, ipv6-prefix = 2001:db8:64:10::/64, options = {} }`
    /// - Its octets: `c0:00:02:04:40:20:01:0d:b8:00:64:00:10`
    /// - Sent by: servers
    /// - Stands in: `v6:96`
    S46_V4V6BIND: Value = 92,
    /// The ports that share an IPv4 address.
    ///
    /// - Option: `v6:93` (`s46-portparams`), RFC 7598, section 4.5
    /// - Layout: `{ offset: u8 in 0..=15, psid-len: u8 in 0..=16, psid: u16 }`
    /// - Example: `{ offset = 6, psid-len = 8, psid = 13312 }`
    /// - Its octets: `06:08:34:00`
    /// - Sent by: servers
    /// - Stands in: `v6:89`, `v6:92`
    S46_PORTPARAMS: Value = 93,
    /// Everything for IPv4 over IPv6 by encapsulation (MAP-E).
    ///
    /// - Option: `v6:94` (`s46-cont-mape`), RFC 7598, section 5.1
    /// - Layout: `options(v6)`
    /// - Example: `{ s46-rule = { flags = f, ea-len = 16, ipv4-prefix-len = 24, ipv4-prefix = 192.0.2.0, ipv6-prefix = 2001:db8:64::/48, options = {} }, s46-br = 2001:db8:64::78 }`
    /// - Its octets: `00:59:00:0e:01:10:18:c0:00:02:00:30:20:01:0d:b8:00:64:00:5a:00:10:20:01 … (38 octets)`
    /// - Sent by: servers
    S46_CONT_MAPE: Value = 94,
    /// Everything for IPv4 over IPv6 by translation (MAP-T).
    ///
    /// - Option: `v6:95` (`s46-cont-mapt`), RFC 7598, section 5.2
    /// - Layout: `options(v6)`
    /// - Example: `{ s46-rule = { flags = f, ea-len = 16, ipv4-prefix-len = 24, ipv4-prefix = 192.0.2.0, ipv6-prefix = 2001:db8:64::/48, options = {} }, s46-dmr = 2001:db8:64:ff00::/64 }`
    /// - Its octets: `00:59:00:0e:01:10:18:c0:00:02:00:30:20:01:0d:b8:00:64:00:5b:00:09:40:20 … (31 octets)`
    /// - Sent by: servers
    S46_CONT_MAPT: Value = 95,
    /// Everything for Lightweight 4over6.
    ///
    /// - Option: `v6:96` (`s46-cont-lw`), RFC 7598, section 5.3
    /// - Layout: `options(v6)`
    /// - Example: `{ s46-v4v6bind = { ipv4-address = 192.0.2.4, ipv6-prefix = 2001:db8:64:10::/64, options = {} }, s46-br = 2001:db8:64::78 }`
    /// - Its octets: `00:5c:00:0d:c0:00:02:04:40:20:01:0d:b8:00:64:00:10:00:5a:00:10:20:01:0d … (37 octets)`
    /// - Sent by: servers
    S46_CONT_LW: Value = 96,
    /// Everything for IPv4 residual deployment (4rd).
    ///
    /// - Option: `v6:97` (`4rd`), RFC 7600, section 4.9
    /// - Layout: `options(v6)`
    /// - Example: `{ 4rd-map-rule = { prefix4-len = 24, prefix6-len = 48, ea-len = 16, flags = none, ipv4-prefix = 192.0.2.0, ipv6-prefix = 20:01:0d:b8:00:64:00:00:00:00:00:00 } }`
    /// - Its octets: `00:62:00:14:18:30:10:00:c0:00:02:00:20:01:0d:b8:00:64:00:00:00:00:00:00`
    /// - Sent by: servers
    OPTION_4RD: Value = 97,
    /// A mapping rule of 4rd.
    ///
    /// - Option: `v6:98` (`4rd-map-rule`), RFC 7600, section 4.9
    /// - Layout: `{ prefix4-len: u8 in 0..=32, prefix6-len: u8 in 0..=96, ea-len: u8, flags: u8 flags { w = 0x80 }, ipv4-prefix: ipv4 as network, ipv6-prefix: bytes{12} }`
    /// - Example: `{ prefix4-len = 24, prefix6-len = 48, ea-len = 16, flags = none, ipv4-prefix = 192.0.2.0, ipv6-prefix = 20:01:0d:b8:00:64:00:00:00:00:00:00 }`
    /// - Its octets: `18:30:10:00:c0:00:02:00:20:01:0d:b8:00:64:00:00:00:00:00:00`
    /// - Sent by: servers
    /// - Stands in: `v6:97`
    OPTION_4RD_MAP_RULE: Value = 98,
    /// What holds for a whole 4rd domain.
    ///
    /// - Option: `v6:99` (`4rd-non-map-rule`), RFC 7600, section 4.9
    /// - Layout: `{ flags: u8 flags { h = 0x80, t = 1 }, traffic-class: u8, domain-pmtu: u16 in 1280.. }`
    /// - Example: `{ flags = h, traffic-class = 0, domain-pmtu = 1500 }`
    /// - Its octets: `80:00:05:dc`
    /// - Sent by: servers
    /// - Stands in: `v6:97`
    OPTION_4RD_NON_MAP_RULE: Value = 99,
    /// When the answers to a bulk query begin: seconds since 2000.
    ///
    /// - Option: `v6:100` (`lq-base-time`), RFC 7653, section 6.3.1
    /// - Layout: `u32`
    /// - Example: `700000000`
    /// - Its octets: `29:b9:27:00`
    /// - Sent by: clients and servers, automatically: no plan sends it
    /// - Stands in: `v6:45`
    LQ_BASE_TIME: u32 = 100,
    /// The earliest time of a bulk query: seconds since 2000.
    ///
    /// - Option: `v6:101` (`lq-start-time`), RFC 7653, section 6.3.2
    /// - Layout: `u32`
    /// - Example: `700000000`
    /// - Its octets: `29:b9:27:00`
    /// - Sent by: clients and servers, automatically: no plan sends it
    LQ_START_TIME: u32 = 101,
    /// The latest time of a bulk query: seconds since 2000.
    ///
    /// - Option: `v6:102` (`lq-end-time`), RFC 7653, section 6.3.3
    /// - Layout: `u32`
    /// - Example: `700000600`
    /// - Its octets: `29:b9:29:58`
    /// - Sent by: clients and servers, automatically: no plan sends it
    LQ_END_TIME: u32 = 102,
    /// The API of the captive portal, as a URI.
    ///
    /// - Option: `v6:103` (`captive-portal`), RFC 8910, section 2.2
    /// - Layout: `uri`
    /// - Example: `https://portal.tarnfell.example/api`
    /// - Its octets: `68:74:74:70:73:3a:2f:2f:70:6f:72:74:61:6c:2e:74:61:72:6e:66:65:6c:6c:2e … (35 octets)`
    /// - Sent by: servers
    #[doc(alias("hotspot"))]
    CAPTIVE_PORTAL: String = 103,
    /// Settings of multicast in lossy networks (MPL).
    ///
    /// - Option: `v6:104` (`mpl-parameters`), RFC 7774, section 2.1
    /// - Layout: `{ flags: u8 flags { p = 0x80 }, tunit: u8 in 1..=254, se-lifetime: u16 in 1..=65534, dm-k: u8, dm-imin: u16 in 1..=65534, dm-imax: u8 in 1..=254, dm-t-exp: u16 in 1..=65534, c-k: u8, c-imin: u16 in 1..=65534, c-imax: u8 in 1..=254, c-t-exp: u16 in 1..=65534, domain: (ipv6 as any)? }`
    /// - Example: `{ flags = p, tunit = 20, se-lifetime = 30, dm-k = 1, dm-imin = 10, dm-imax = 10, dm-t-exp = 3, c-k = 1, c-imin = 10, c-imax = 10, c-t-exp = 10 }`
    /// - Its octets: `80:14:00:1e:01:00:0a:0a:00:03:01:00:0a:0a:00:0a`
    /// - Sent by: servers
    MPL_PARAMETERS: Value = 104,
    /// The technology of the access network.
    ///
    /// - Option: `v6:105` (`ani-att`), RFC 7839, section 5.1
    /// - Layout: `{ reserved: u8 in 0, att: u8 of access-technology }`
    /// - Example: `{ reserved = 0, att = ieee-802-11 }`
    /// - Its octets: `00:04`
    /// - Sent by: relay agents, automatically: no plan sends it
    ANI_ATT: Value = 105,
    /// The name of the access network.
    ///
    /// - Option: `v6:106` (`ani-network-name`), RFC 7839, section 5.2.1
    /// - Layout: `utf8*`
    /// - Example: `Tarn Fell Visitors`
    /// - Its octets: `54:61:72:6e:20:46:65:6c:6c:20:56:69:73:69:74:6f:72:73`
    /// - Sent by: relay agents, automatically: no plan sends it
    ANI_NETWORK_NAME: String = 106,
    /// The name of the access point.
    ///
    /// - Option: `v6:107` (`ani-ap-name`), RFC 7839, section 5.2.2
    /// - Layout: `utf8*`
    /// - Example: `visitor-centre-2`
    /// - Its octets: `76:69:73:69:74:6f:72:2d:63:65:6e:74:72:65:2d:32`
    /// - Sent by: relay agents, automatically: no plan sends it
    ANI_AP_NAME: String = 107,
    /// The hardware address of the access point's radio.
    ///
    /// - Option: `v6:108` (`ani-ap-bssid`), RFC 7839, section 5.2.3
    /// - Layout: `mac`
    /// - Example: `02:00:5e:00:53:a1`
    /// - Its octets: `02:00:5e:00:53:a1`
    /// - Sent by: relay agents, automatically: no plan sends it
    ANI_AP_BSSID: Value = 108,
    /// The operator of the access network, by enterprise number.
    ///
    /// - Option: `v6:109` (`ani-operator-id`), RFC 7839, section 5.3.1
    /// - Layout: `u32`
    /// - Example: `32473`
    /// - Its octets: `00:00:7e:d9`
    /// - Sent by: relay agents, automatically: no plan sends it
    ANI_OPERATOR_ID: u32 = 109,
    /// The operator's realm.
    ///
    /// - Option: `v6:110` (`ani-operator-realm`), RFC 7839, section 5.3.2
    /// - Layout: `text`
    /// - Example: `TARNFELL.EXAMPLE`
    /// - Its octets: `54:41:52:4e:46:45:4c:4c:2e:45:58:41:4d:50:4c:45`
    /// - Sent by: relay agents, automatically: no plan sends it
    ANI_OPERATOR_REALM: String = 110,
    /// Ways of IPv4 over IPv6, best first.
    ///
    /// - Option: `v6:111` (`s46-priority`), RFC 8026, section 1.3
    /// - Layout: `(u16 of v6-s46-mechanism)+`
    /// - Example: `map-e, lightweight-4over6`
    /// - Its octets: `00:5e:00:60`
    /// - Sent by: servers
    S46_PRIORITY: Vec<u16> = 111,
    /// Where the device's manufacturer says what it may do.
    ///
    /// - Option: `v6:112` (`mud-url-v6`), RFC 8520, section 10
    /// - Layout: `text-and-octets`
    /// - Example: `https://maker.example/sensor.json`
    /// - Its octets: `68:74:74:70:73:3a:2f:2f:6d:61:6b:65:72:2e:65:78:61:6d:70:6c:65:2f:73:65 … (33 octets)`
    /// - Sent by: clients, automatically: no plan sends it
    MUD_URL_V6: String = 112,
    /// Prefixes for IPv4 multicast inside IPv6.
    ///
    /// - Option: `v6:113` (`v6-prefix64`), RFC 8115, section 3
    /// - Layout: `{ asm-prefix: prefix6, ssm-prefix: prefix6, unicast-prefix: prefix6 }`
    /// - Example: `{ asm-prefix = ff0e:db8:1::/96, ssm-prefix = ff3e::/96, unicast-prefix = 64:ff9b::/96 }`
    /// - Its octets: `60:ff:0e:0d:b8:00:01:00:00:00:00:00:00:60:ff:3e:00:00:00:00:00:00:00:00 … (39 octets)`
    /// - Sent by: servers
    V6_PREFIX64: Value = 113,
    /// The state of a binding, between failover partners.
    ///
    /// - Option: `v6:114` (`f-binding-status`), RFC 8156, section 5.5.1
    /// - Layout: `u8 of { active = 1, expired = 2, released = 3, pending-free = 4, free = 5, free-backup = 6, abandoned = 7, reset = 8 }`
    /// - Example: `active`
    /// - Its octets: `01`
    /// - Sent by: clients and servers, automatically: no plan sends it
    F_BINDING_STATUS: u8 = 114,
    /// What a failover partner requests for the connection.
    ///
    /// - Option: `v6:115` (`f-connect-flags`), RFC 8156, section 5.5.2
    /// - Layout: `u16 flags { fixed-pd-length = 1 }`
    /// - Example: `fixed-pd-length`
    /// - Its octets: `00:01`
    /// - Sent by: clients and servers, automatically: no plan sends it
    F_CONNECT_FLAGS: u16 = 115,
    /// What to take out of DNS when a binding ends.
    ///
    /// - Option: `v6:116` (`f-dns-removal-info`), RFC 8156, section 5.5.3
    /// - Layout: `options(v6)*`
    /// - Example: `{ f-dns-host-name = dome-3.tarnfell.example }`
    /// - Its octets: `00:75:00:19:06:64:6f:6d:65:2d:33:08:74:61:72:6e:66:65:6c:6c:07:65:78:61 … (29 octets)`
    /// - Sent by: clients and servers, automatically: no plan sends it
    F_DNS_REMOVAL_INFO: Value = 116,
    /// The host name that is in DNS.
    ///
    /// - Option: `v6:117` (`f-dns-host-name`), RFC 8156, section 5.5.3.1
    /// - Layout: `name`
    /// - Example: `dome-3.tarnfell.example`
    /// - Its octets: `06:64:6f:6d:65:2d:33:08:74:61:72:6e:66:65:6c:6c:07:65:78:61:6d:70:6c:65 … (25 octets)`
    /// - Sent by: clients and servers, automatically: no plan sends it
    /// - Stands in: `v6:116`
    F_DNS_HOST_NAME: String = 117,
    /// The zone that the host name is in.
    ///
    /// - Option: `v6:118` (`f-dns-zone-name`), RFC 8156, section 5.5.3.2
    /// - Layout: `name`
    /// - Example: `tarnfell.example`
    /// - Its octets: `08:74:61:72:6e:66:65:6c:6c:07:65:78:61:6d:70:6c:65:00`
    /// - Sent by: clients and servers, automatically: no plan sends it
    /// - Stands in: `v6:116`
    F_DNS_ZONE_NAME: String = 118,
    /// How far DNS is up to date.
    ///
    /// - Option: `v6:119` (`f-dns-flags`), RFC 8156, section 5.5.3.3
    /// - Layout: `u16 flags { using-requested-fqdn = 8, synthesized-name = 4, reverse-up-to-date = 2, forward-up-to-date = 1 }`
    /// - Example: `forward-up-to-date`
    /// - Its octets: `00:01`
    /// - Sent by: clients and servers, automatically: no plan sends it
    /// - Stands in: `v6:116`
    F_DNS_FLAGS: u16 = 119,
    /// When a binding expires: seconds since 2000.
    ///
    /// - Option: `v6:120` (`f-expiration-time`), RFC 8156, section 5.5.4
    /// - Layout: `u32`
    /// - Example: `700000000`
    /// - Its octets: `29:b9:27:00`
    /// - Sent by: clients and servers, automatically: no plan sends it
    F_EXPIRATION_TIME: u32 = 120,
    /// Unanswered updates that a partner lets be.
    ///
    /// - Option: `v6:121` (`f-max-unacked-bndupd`), RFC 8156, section 5.5.5
    /// - Layout: `u32`
    /// - Example: `10`
    /// - Its octets: `00:00:00:0a`
    /// - Sent by: clients and servers, automatically: no plan sends it
    F_MAX_UNACKED_BNDUPD: u32 = 121,
    /// The most that a lease may be longer than the partner knows, in seconds.
    ///
    /// - Option: `v6:122` (`f-mclt`), RFC 8156, section 5.5.6
    /// - Layout: `u32 unit seconds`
    /// - Example: `3600`
    /// - Its octets: `00:00:0e:10`
    /// - Sent by: clients and servers, automatically: no plan sends it
    F_MCLT: u32 = 122,
    /// The lifetime that the partner knows: seconds since 2000.
    ///
    /// - Option: `v6:123` (`f-partner-lifetime`), RFC 8156, section 5.5.7
    /// - Layout: `u32`
    /// - Example: `700000000`
    /// - Its octets: `29:b9:27:00`
    /// - Sent by: clients and servers, automatically: no plan sends it
    F_PARTNER_LIFETIME: u32 = 123,
    /// The lifetime that the partner was sent: seconds since 2000.
    ///
    /// - Option: `v6:124` (`f-partner-lifetime-sent`), RFC 8156, section 5.5.8
    /// - Layout: `u32`
    /// - Example: `700000000`
    /// - Its octets: `29:b9:27:00`
    /// - Sent by: clients and servers, automatically: no plan sends it
    F_PARTNER_LIFETIME_SENT: u32 = 124,
    /// When the partner went down: seconds since 2000.
    ///
    /// - Option: `v6:125` (`f-partner-down-time`), RFC 8156, section 5.5.9
    /// - Layout: `u32`
    /// - Example: `700000000`
    /// - Its octets: `29:b9:27:00`
    /// - Sent by: clients and servers, automatically: no plan sends it
    F_PARTNER_DOWN_TIME: u32 = 125,
    /// When the partner last heard of the client: seconds since 2000.
    ///
    /// - Option: `v6:126` (`f-partner-raw-clt-time`), RFC 8156, section 5.5.10
    /// - Layout: `u32`
    /// - Example: `700000000`
    /// - Its octets: `29:b9:27:00`
    /// - Sent by: clients and servers, automatically: no plan sends it
    F_PARTNER_RAW_CLT_TIME: u32 = 126,
    /// The version of the failover protocol.
    ///
    /// - Option: `v6:127` (`f-protocol-version`), RFC 8156, section 5.5.11
    /// - Layout: `{ major: u16, minor: u16 }`
    /// - Example: `{ major = 1, minor = 0 }`
    /// - Its octets: `00:01:00:00`
    /// - Sent by: clients and servers, automatically: no plan sends it
    F_PROTOCOL_VERSION: Value = 127,
    /// Seconds without a message after which a partner is contacted.
    ///
    /// - Option: `v6:128` (`f-keepalive-time`), RFC 8156, section 5.5.12
    /// - Layout: `u32 unit seconds`
    /// - Example: `60`
    /// - Its octets: `00:00:00:3c`
    /// - Sent by: clients and servers, automatically: no plan sends it
    F_KEEPALIVE_TIME: u32 = 128,
    /// The client's reconfigure key, between failover partners.
    ///
    /// - Option: `v6:129` (`f-reconfigure-data`), RFC 8156, section 5.5.13
    /// - Layout: `{ time: u32, key: bytes* }`
    /// - Example: `{ time = 700000000, key = 00:01 }`
    /// - Its octets: `29:b9:27:00:00:01`
    /// - Sent by: clients and servers, automatically: no plan sends it
    /// - Stands in: `v6:45`
    F_RECONFIGURE_DATA: Value = 129,
    /// The name of a failover relationship.
    ///
    /// - Option: `v6:130` (`f-relationship-name`), RFC 8156, section 5.5.14
    /// - Layout: `utf8*`
    /// - Example: `tarn and fell`
    /// - Its octets: `74:61:72:6e:20:61:6e:64:20:66:65:6c:6c`
    /// - Sent by: clients and servers, automatically: no plan sends it
    F_RELATIONSHIP_NAME: String = 130,
    /// What a failover partner says of itself.
    ///
    /// - Option: `v6:131` (`f-server-flags`), RFC 8156, section 5.5.15
    /// - Layout: `u8 flags { ack-startup = 4, startup = 2, communicated = 1 }`
    /// - Example: `communicated`
    /// - Its octets: `01`
    /// - Sent by: clients and servers, automatically: no plan sends it
    F_SERVER_FLAGS: u8 = 131,
    /// The state of a failover partner.
    ///
    /// - Option: `v6:132` (`f-server-state`), RFC 8156, section 5.5.16
    /// - Layout: `u8 of { startup = 1, normal = 2, communications-interrupted = 3, partner-down = 4, potential-conflict = 5, recover = 6, recover-wait = 7, recover-done = 8, resolution-interrupted = 9, conflict-done = 10 }`
    /// - Example: `normal`
    /// - Its octets: `02`
    /// - Sent by: clients and servers, automatically: no plan sends it
    F_SERVER_STATE: u8 = 132,
    /// When that state began: seconds since 2000.
    ///
    /// - Option: `v6:133` (`f-start-time-of-state`), RFC 8156, section 5.5.17
    /// - Layout: `u32`
    /// - Example: `700000000`
    /// - Its octets: `29:b9:27:00`
    /// - Sent by: clients and servers, automatically: no plan sends it
    F_START_TIME_OF_STATE: u32 = 133,
    /// When that state of the binding ends: seconds since 2000.
    ///
    /// - Option: `v6:134` (`f-state-expiration-time`), RFC 8156, section 5.5.18
    /// - Layout: `u32`
    /// - Example: `700000000`
    /// - Its octets: `29:b9:27:00`
    /// - Sent by: clients and servers, automatically: no plan sends it
    F_STATE_EXPIRATION_TIME: u32 = 134,
    /// The UDP port that the relay listens on, if another.
    ///
    /// - Option: `v6:135` (`relay-port`), RFC 8357, section 4.2
    /// - Layout: `u16`
    /// - Example: `0`
    /// - Its octets: `00:00`
    /// - Sent by: relay agents, automatically: no plan sends it
    RELAY_PORT: u16 = 135,
    /// Bootstrap servers of secure zero-touch provisioning.
    ///
    /// - Option: `v6:136` (`v6-sztp-redirect`), RFC 8572, section 8.2
    /// - Layout: `len16(uri)+`
    /// - Example: `https://boot.tarnfell.example`
    /// - Its octets: `00:1d:68:74:74:70:73:3a:2f:2f:62:6f:6f:74:2e:74:61:72:6e:66:65:6c:6c:2e … (31 octets)`
    /// - Sent by: servers
    V6_SZTP_REDIRECT: Value = 136,
    /// The prefix that the client's IPv4 is bound to.
    ///
    /// - Option: `v6:137` (`s46-bind-ipv6-prefix`), RFC 8539, section 6.1
    /// - Layout: `prefix6`
    /// - Example: `2001:db8:64:10::/64`
    /// - Its octets: `40:20:01:0d:b8:00:64:00:10`
    /// - Sent by: servers
    S46_BIND_IPV6_PREFIX: Value = 137,
    /// An identity association of hardware addresses.
    ///
    /// - Option: `v6:138` (`ia-ll`), RFC 8947, section 11.1
    /// - Layout: `{ iaid: u32, t1: seconds, t2: seconds, options: options(v6)* }`
    /// - Example: `{ iaid = 1, t1 = 4h, t2 = 6h24m, options = {} }`
    /// - Its octets: `00:00:00:01:00:00:38:40:00:00:5a:00`
    /// - Sent by: clients and servers, automatically: no plan sends it
    IA_LL: Value = 138,
    /// A block of hardware addresses, with its lifetime.
    ///
    /// - Option: `v6:139` (`lladdr`), RFC 8947, section 11.2
    /// - Layout: `{ hardware-type: u16, address: len16(bytes*), extra-addresses: u32, valid-lifetime: seconds, options: options(v6)* }`
    /// - Example: `{ hardware-type = 1, address = 02:00:5e:00:53:20, extra-addresses = 15, valid-lifetime = 12h, options = {} }`
    /// - Its octets: `00:01:00:06:02:00:5e:00:53:20:00:00:00:0f:00:00:a8:c0`
    /// - Sent by: clients and servers, automatically: no plan sends it
    /// - Stands in: `v6:138`
    LLADDR: Value = 139,
    /// Which kinds of hardware addresses a device prefers.
    ///
    /// - Option: `v6:140` (`slap-quad`), RFC 8948, section 4.1
    /// - Layout: `{ quadrant: u8 of { aai = 0, eli = 1, reserved = 2, sai = 3 }, preference: u8 }+`
    /// - Example: `{ quadrant = aai, preference = 2 }`
    /// - Its octets: `00:02`
    /// - Sent by: clients, automatically: no plan sends it
    /// - Stands in: `v6:138`
    SLAP_QUAD: Value = 140,
    /// The server for DDoS threat signaling (DOTS), by name.
    ///
    /// - Option: `v6:141` (`v6-dots-ri`), RFC 8973, section 5.1.1
    /// - Layout: `name`
    /// - Example: `dots.tarnfell.example`
    /// - Its octets: `04:64:6f:74:73:08:74:61:72:6e:66:65:6c:6c:07:65:78:61:6d:70:6c:65:00`
    /// - Sent by: servers
    V6_DOTS_RI: String = 141,
    /// Servers for DDoS threat signaling (DOTS), by address.
    ///
    /// - Option: `v6:142` (`v6-dots-address`), RFC 8973, section 5.1.2
    /// - Layout: `ipv6+`
    /// - Example: `2001:db8:64::79`
    /// - Its octets: `20:01:0d:b8:00:64:00:00:00:00:00:00:00:00:00:79`
    /// - Sent by: servers
    V6_DOTS_ADDRESS: Vec<Ipv6Addr> = 142,
    /// Servers that help mobile devices choose networks (ANDSF).
    ///
    /// - Option: `v6:143` (`ipv6-address-andsf`), RFC 6153, section 3
    /// - Layout: `ipv6+`
    /// - Example: `2001:db8:64::7a`
    /// - Its octets: `20:01:0d:b8:00:64:00:00:00:00:00:00:00:00:00:7a`
    /// - Sent by: servers
    IPV6_ADDRESS_ANDSF: Vec<Ipv6Addr> = 143,
    /// An encrypted DNS server.
    ///
    /// - Option: `v6:144` (`v6-dnr`), RFC 9463, section 4.1
    /// - Layout: `{ priority: u16, authentication-domain: len16(name), addresses: len16(ipv6+)?, parameters: options(service-parameters)? }`
    /// - Example: `{ priority = 1, authentication-domain = dns.tarnfell.example, addresses = [2001:db8:64::53] }`
    /// - Its octets: `00:01:00:16:03:64:6e:73:08:74:61:72:6e:66:65:6c:6c:07:65:78:61:6d:70:6c … (44 octets)`
    /// - Sent by: servers
    V6_DNR: Value = 144,
    /// The registered domain of a home network.
    ///
    /// - Option: `v6:145` (`registered-domain`), RFC 9527, section 4.1
    /// - Layout: `name`
    /// - Example: `home.tarnfell.example`
    /// - Its octets: `04:68:6f:6d:65:08:74:61:72:6e:66:65:6c:6c:07:65:78:61:6d:70:6c:65:00`
    /// - Sent by: servers
    REGISTERED_DOMAIN: String = 145,
    /// Where a home network's forward zone is managed.
    ///
    /// - Option: `v6:146` (`forward-dist-manager`), RFC 9527, section 4.2
    /// - Layout: `{ transports: u16 flags { dot = 1 }, name: name }`
    /// - Example: `{ transports = dot, name = forward.tarnfell.example }`
    /// - Its octets: `00:01:07:66:6f:72:77:61:72:64:08:74:61:72:6e:66:65:6c:6c:07:65:78:61:6d … (28 octets)`
    /// - Sent by: servers
    FORWARD_DIST_MANAGER: Value = 146,
    /// Where a home network's reverse zone is managed.
    ///
    /// - Option: `v6:147` (`reverse-dist-manager`), RFC 9527, section 4.3
    /// - Layout: `{ transports: u16 flags { dot = 1 }, name: name }`
    /// - Example: `{ transports = dot, name = reverse.tarnfell.example }`
    /// - Its octets: `00:01:07:72:65:76:65:72:73:65:08:74:61:72:6e:66:65:6c:6c:07:65:78:61:6d … (28 octets)`
    /// - Sent by: servers
    REVERSE_DIST_MANAGER: Value = 147,
    /// Clients may register addresses that they made themselves.
    ///
    /// - Option: `v6:148` (`addr-reg-enable`), RFC 9686, section 4.1
    /// - Layout: `empty`
    /// - Example: `true`
    /// - Its octets: ``
    /// - Sent by: servers
    ADDR_REG_ENABLE: Value = 148,
}
