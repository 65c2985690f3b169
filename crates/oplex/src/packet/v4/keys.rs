//! Generated from the standard codebook: do not edit. `cargo run -p xtask -- generate` writes it anew.

use crate::prelude::*;
use core::net::{Ipv4Addr, Ipv6Addr};
use core::time::Duration;

use super::MessageType;
use crate::layout::{Route4, Value};
use crate::packet::{ClientFqdn, RelayInformation};
use crate::packet::typed::keys;

keys! { V4
    /// The subnet's mask; it stands before router when both are sent.
    ///
    /// - Option: `v4:1` (`subnet-mask`), RFC 2132, section 3.3
    /// - Layout: `netmask`
    /// - Example: `255.255.254.0`
    /// - Its octets: `ff:ff:fe:00`
    /// - Sent by: servers
    #[doc(alias("mask"))]
    SUBNET_MASK: Ipv4Addr = 1,
    /// Seconds east (positive) or west of UTC.
    ///
    /// - Option: `v4:2` (`time-offset`), RFC 2132, section 3.4
    /// - Layout: `i32 unit seconds`
    /// - Example: `3600`
    /// - Its octets: `00:00:0e:10`
    /// - Sent by: servers
    /// - Status: deprecated; replaced by `v4:100, v4:101`
    TIME_OFFSET: i32 = 2,
    /// Routers on the client's subnet, best first.
    ///
    /// - Option: `v4:3` (`router`), RFC 2132, section 3.5
    /// - Layout: `ipv4+`
    /// - Example: `10.64.4.1`
    /// - Its octets: `0a:40:04:01`
    /// - Sent by: servers
    #[doc(alias("gateway", "default-route"))]
    ROUTER: Vec<Ipv4Addr> = 3,
    /// Time servers of the old Time protocol (RFC 868), not NTP.
    ///
    /// - Option: `v4:4` (`time-server`), RFC 2132, section 3.6
    /// - Layout: `ipv4+`
    /// - Example: `10.64.0.55`
    /// - Its octets: `0a:40:00:37`
    /// - Sent by: servers
    TIME_SERVER: Vec<Ipv4Addr> = 4,
    /// Name servers of IEN 116, not DNS.
    ///
    /// - Option: `v4:5` (`name-server`), RFC 2132, section 3.7
    /// - Layout: `ipv4+`
    /// - Example: `10.64.0.56`
    /// - Its octets: `0a:40:00:38`
    /// - Sent by: servers
    NAME_SERVER: Vec<Ipv4Addr> = 5,
    /// DNS servers, best first.
    ///
    /// - Option: `v4:6` (`domain-server`), RFC 2132, section 3.8
    /// - Layout: `ipv4+`
    /// - Example: `10.64.0.53, 10.64.0.54`
    /// - Its octets: `0a:40:00:35:0a:40:00:36`
    /// - Sent by: servers
    #[doc(alias("dns", "resolver"))]
    DOMAIN_SERVER: Vec<Ipv4Addr> = 6,
    /// MIT-LCS UDP log servers, best first.
    ///
    /// - Option: `v4:7` (`log-server`), RFC 2132, section 3.9
    /// - Layout: `ipv4+`
    /// - Example: `10.64.0.57`
    /// - Its octets: `0a:40:00:39`
    /// - Sent by: servers
    #[doc(alias("log"))]
    LOG_SERVER: Vec<Ipv4Addr> = 7,
    /// Quote-of-the-day servers.
    ///
    /// - Option: `v4:8` (`quotes-server`), RFC 2132, section 3.10
    /// - Layout: `ipv4+`
    /// - Example: `10.64.0.58`
    /// - Its octets: `0a:40:00:3a`
    /// - Sent by: servers
    QUOTES_SERVER: Vec<Ipv4Addr> = 8,
    /// Line printer servers, best first.
    ///
    /// - Option: `v4:9` (`lpr-server`), RFC 2132, section 3.11
    /// - Layout: `ipv4+`
    /// - Example: `10.64.0.59`
    /// - Its octets: `0a:40:00:3b`
    /// - Sent by: servers
    #[doc(alias("printer"))]
    LPR_SERVER: Vec<Ipv4Addr> = 9,
    /// Imagen Impress servers, best first.
    ///
    /// - Option: `v4:10` (`impress-server`), RFC 2132, section 3.12
    /// - Layout: `ipv4+`
    /// - Example: `10.64.0.60`
    /// - Its octets: `0a:40:00:3c`
    /// - Sent by: servers
    #[doc(alias("printer"))]
    IMPRESS_SERVER: Vec<Ipv4Addr> = 10,
    /// Resource location servers (RFC 887).
    ///
    /// - Option: `v4:11` (`rlp-server`), RFC 2132, section 3.13
    /// - Layout: `ipv4+`
    /// - Example: `10.64.0.61`
    /// - Its octets: `0a:40:00:3d`
    /// - Sent by: servers
    RLP_SERVER: Vec<Ipv4Addr> = 11,
    /// The client's own name, with or without its domain.
    ///
    /// - Option: `v4:12` (`hostname`), RFC 2132, section 3.14
    /// - Layout: `dotted-name`
    /// - Example: `dome-3`
    /// - Its octets: `64:6f:6d:65:2d:33`
    /// - Sent by: clients and servers
    HOSTNAME: String = 12,
    /// Size of the boot file in blocks of 512 octets.
    ///
    /// - Option: `v4:13` (`boot-file-size`), RFC 2132, section 3.15
    /// - Layout: `u16`
    /// - Example: `160`
    /// - Its octets: `00:a0`
    /// - Sent by: servers
    BOOT_FILE_SIZE: u16 = 13,
    /// Path of the file a crash dump goes to.
    ///
    /// - Option: `v4:14` (`merit-dump-file`), RFC 2132, section 3.16
    /// - Layout: `text`
    /// - Example: `/var/dump/core`
    /// - Its octets: `2f:76:61:72:2f:64:75:6d:70:2f:63:6f:72:65`
    /// - Sent by: servers
    MERIT_DUMP_FILE: String = 14,
    /// The domain the client completes short names with.
    ///
    /// - Option: `v4:15` (`domain-name`), RFC 2132, section 3.17
    /// - Layout: `dotted-name`
    /// - Example: `tarnfell.example`
    /// - Its octets: `74:61:72:6e:66:65:6c:6c:2e:65:78:61:6d:70:6c:65`
    /// - Sent by: servers
    #[doc(alias("domain"))]
    DOMAIN_NAME: String = 15,
    /// The swap server.
    ///
    /// - Option: `v4:16` (`swap-server`), RFC 2132, section 3.18
    /// - Layout: `ipv4`
    /// - Example: `10.64.0.62`
    /// - Its octets: `0a:40:00:3e`
    /// - Sent by: servers
    SWAP_SERVER: Ipv4Addr = 16,
    /// Path of the client's root file system.
    ///
    /// - Option: `v4:17` (`root-path`), RFC 2132, section 3.19
    /// - Layout: `text`
    /// - Example: `10.64.0.80:/export/dome`
    /// - Its octets: `31:30:2e:36:34:2e:30:2e:38:30:3a:2f:65:78:70:6f:72:74:2f:64:6f:6d:65`
    /// - Sent by: servers
    #[doc(alias("nfs", "iscsi", "boot"))]
    ROOT_PATH: String = 17,
    /// File, fetched by TFTP, with more options in it.
    ///
    /// - Option: `v4:18` (`extension-file`), RFC 2132, section 3.20
    /// - Layout: `text`
    /// - Example: `extensions.bin`
    /// - Its octets: `65:78:74:65:6e:73:69:6f:6e:73:2e:62:69:6e`
    /// - Sent by: servers
    EXTENSION_FILE: String = 18,
    /// Whether the client forwards IP datagrams.
    ///
    /// - Option: `v4:19` (`forward-on-off`), RFC 2132, section 4.1
    /// - Layout: `bool`
    /// - Example: `false`
    /// - Its octets: `00`
    /// - Sent by: servers
    FORWARD_ON_OFF: bool = 19,
    /// Whether the client forwards datagrams with non-local source routes.
    ///
    /// - Option: `v4:20` (`srcrte-on-off`), RFC 2132, section 4.2
    /// - Layout: `bool`
    /// - Example: `false`
    /// - Its octets: `00`
    /// - Sent by: servers
    SRCRTE_ON_OFF: bool = 20,
    /// Destinations allowed in incoming source routes.
    ///
    /// - Option: `v4:21` (`policy-filter`), RFC 2132, section 4.3
    /// - Layout: `{ address: ipv4 as network, mask: netmask }+`
    /// - Example: `{ address = 10.64.0.0, mask = 255.255.0.0 }`
    /// - Its octets: `0a:40:00:00:ff:ff:00:00`
    /// - Sent by: servers
    POLICY_FILTER: Value = 21,
    /// Largest datagram the client should be ready to reassemble.
    ///
    /// - Option: `v4:22` (`max-dg-assembly`), RFC 2132, section 4.4
    /// - Layout: `u16 in 576..`
    /// - Example: `1500`
    /// - Its octets: `05:dc`
    /// - Sent by: servers
    MAX_DG_ASSEMBLY: u16 = 22,
    /// Time to live of outgoing datagrams.
    ///
    /// - Option: `v4:23` (`default-ip-ttl`), RFC 2132, section 4.5
    /// - Layout: `u8 in 1..`
    /// - Example: `64`
    /// - Its octets: `40`
    /// - Sent by: servers
    #[doc(alias("ttl"))]
    DEFAULT_IP_TTL: u8 = 23,
    /// Seconds after which a discovered path MTU is forgotten.
    ///
    /// - Option: `v4:24` (`mtu-timeout`), RFC 2132, section 4.6
    /// - Layout: `u32 unit seconds`
    /// - Example: `600`
    /// - Its octets: `00:00:02:58`
    /// - Sent by: servers
    MTU_TIMEOUT: u32 = 24,
    /// Sizes to try in path MTU discovery, smallest first.
    ///
    /// - Option: `v4:25` (`mtu-plateau`), RFC 2132, section 4.7
    /// - Layout: `(u16 in 68..)+`
    /// - Example: `68, 296, 1500`
    /// - Its octets: `00:44:01:28:05:dc`
    /// - Sent by: servers
    MTU_PLATEAU: Vec<u16> = 25,
    /// The MTU of this interface.
    ///
    /// - Option: `v4:26` (`mtu-interface`), RFC 2132, section 5.1
    /// - Layout: `u16 in 68..`
    /// - Example: `1500`
    /// - Its octets: `05:dc`
    /// - Sent by: servers
    #[doc(alias("mtu"))]
    MTU_INTERFACE: u16 = 26,
    /// Whether all subnets of the network have the same MTU.
    ///
    /// - Option: `v4:27` (`mtu-subnet`), RFC 2132, section 5.2
    /// - Layout: `bool`
    /// - Example: `true`
    /// - Its octets: `01`
    /// - Sent by: servers
    MTU_SUBNET: bool = 27,
    /// The subnet's broadcast address.
    ///
    /// - Option: `v4:28` (`broadcast-address`), RFC 2132, section 5.3
    /// - Layout: `ipv4 as any`
    /// - Example: `10.64.5.255`
    /// - Its octets: `0a:40:05:ff`
    /// - Sent by: servers
    #[doc(alias("broadcast"))]
    BROADCAST_ADDRESS: Ipv4Addr = 28,
    /// Whether the client requests its mask by ICMP.
    ///
    /// - Option: `v4:29` (`mask-discovery`), RFC 2132, section 5.4
    /// - Layout: `bool`
    /// - Example: `false`
    /// - Its octets: `00`
    /// - Sent by: servers
    MASK_DISCOVERY: bool = 29,
    /// Whether the client answers for masks by ICMP.
    ///
    /// - Option: `v4:30` (`mask-supplier`), RFC 2132, section 5.5
    /// - Layout: `bool`
    /// - Example: `false`
    /// - Its octets: `00`
    /// - Sent by: servers
    MASK_SUPPLIER: bool = 30,
    /// Whether the client looks for routers by ICMP (RFC 1256).
    ///
    /// - Option: `v4:31` (`router-discovery`), RFC 2132, section 5.6
    /// - Layout: `bool`
    /// - Example: `false`
    /// - Its octets: `00`
    /// - Sent by: servers
    ROUTER_DISCOVERY: bool = 31,
    /// Where router solicitations go.
    ///
    /// - Option: `v4:32` (`router-request`), RFC 2132, section 5.7
    /// - Layout: `ipv4 as any`
    /// - Example: `10.64.4.1`
    /// - Its octets: `0a:40:04:01`
    /// - Sent by: servers
    ROUTER_REQUEST: Ipv4Addr = 32,
    /// Routes whose masks follow from address classes; classless-static-route replaces it.
    ///
    /// - Option: `v4:33` (`static-route`), RFC 2132, section 5.8
    /// - Layout: `{ destination: ipv4 as network, router: ipv4 }+`
    /// - Example: `{ destination = 10.64.8.0, router = 10.64.4.1 }`
    /// - Its octets: `0a:40:08:00:0a:40:04:01`
    /// - Sent by: servers
    /// - Status: obsolete; replaced by `v4:121`
    STATIC_ROUTE: Value = 33,
    /// Whether the client uses trailers (RFC 893).
    ///
    /// - Option: `v4:34` (`trailers`), RFC 2132, section 6.1
    /// - Layout: `bool`
    /// - Example: `false`
    /// - Its octets: `00`
    /// - Sent by: servers
    TRAILERS: bool = 34,
    /// Seconds an ARP entry is kept.
    ///
    /// - Option: `v4:35` (`arp-timeout`), RFC 2132, section 6.2
    /// - Layout: `u32 unit seconds`
    /// - Example: `60`
    /// - Its octets: `00:00:00:3c`
    /// - Sent by: servers
    ARP_TIMEOUT: u32 = 35,
    /// Ethernet framing: RFC 894 or RFC 1042.
    ///
    /// - Option: `v4:36` (`ethernet`), RFC 2132, section 6.3
    /// - Layout: `u8 of { ethernet-v2 = 0, ieee-802-3 = 1 }`
    /// - Example: `ethernet-v2`
    /// - Its octets: `00`
    /// - Sent by: servers
    ETHERNET: u8 = 36,
    /// Time to live of outgoing TCP segments.
    ///
    /// - Option: `v4:37` (`default-tcp-ttl`), RFC 2132, section 7.1
    /// - Layout: `u8 in 1..`
    /// - Example: `64`
    /// - Its octets: `40`
    /// - Sent by: servers
    DEFAULT_TCP_TTL: u8 = 37,
    /// Seconds between TCP keepalives; 0 sends none unrequested.
    ///
    /// - Option: `v4:38` (`keepalive-time`), RFC 2132, section 7.2
    /// - Layout: `u32 unit seconds`
    /// - Example: `0`
    /// - Its octets: `00:00:00:00`
    /// - Sent by: servers
    KEEPALIVE_TIME: u32 = 38,
    /// Whether TCP keepalives carry an octet of garbage.
    ///
    /// - Option: `v4:39` (`keepalive-data`), RFC 2132, section 7.3
    /// - Layout: `bool`
    /// - Example: `false`
    /// - Its octets: `00`
    /// - Sent by: servers
    KEEPALIVE_DATA: bool = 39,
    /// The NIS domain.
    ///
    /// - Option: `v4:40` (`nis-domain`), RFC 2132, section 8.1
    /// - Layout: `text`
    /// - Example: `tarnfell`
    /// - Its octets: `74:61:72:6e:66:65:6c:6c`
    /// - Sent by: servers
    NIS_DOMAIN: String = 40,
    /// NIS servers, best first.
    ///
    /// - Option: `v4:41` (`nis-servers`), RFC 2132, section 8.2
    /// - Layout: `ipv4+`
    /// - Example: `10.64.0.63`
    /// - Its octets: `0a:40:00:3f`
    /// - Sent by: servers
    NIS_SERVERS: Vec<Ipv4Addr> = 41,
    /// NTP servers, best first.
    ///
    /// - Option: `v4:42` (`ntp-servers`), RFC 2132, section 8.3
    /// - Layout: `ipv4+`
    /// - Example: `10.64.0.123`
    /// - Its octets: `0a:40:00:7b`
    /// - Sent by: servers
    #[doc(alias("ntp", "time", "clock"))]
    NTP_SERVERS: Vec<Ipv4Addr> = 42,
    /// A vendor's own sub-options; the vendor is the one of class-id.
    ///
    /// - Option: `v4:43` (`vendor-specific`), RFC 2132, section 8.4
    /// - Layout: `bytes`
    /// - Example: `01:04:0a:40:00:46`
    /// - Its octets: `01:04:0a:40:00:46`
    /// - Sent by: clients and servers
    #[doc(alias("vendor", "phone", "radio"))]
    VENDOR_SPECIFIC: Vec<u8> = 43,
    /// NetBIOS name servers, best first.
    ///
    /// - Option: `v4:44` (`netbios-name-srv`), RFC 2132, section 8.5
    /// - Layout: `ipv4+`
    /// - Example: `10.64.0.64`
    /// - Its octets: `0a:40:00:40`
    /// - Sent by: servers
    #[doc(alias("nbns"))]
    NETBIOS_NAME_SRV: Vec<Ipv4Addr> = 44,
    /// NetBIOS datagram distribution servers, best first.
    ///
    /// - Option: `v4:45` (`netbios-dist-srv`), RFC 2132, section 8.6
    /// - Layout: `ipv4+`
    /// - Example: `10.64.0.65`
    /// - Its octets: `0a:40:00:41`
    /// - Sent by: servers
    NETBIOS_DIST_SRV: Vec<Ipv4Addr> = 45,
    /// How the client resolves NetBIOS names.
    ///
    /// - Option: `v4:46` (`netbios-node-type`), RFC 2132, section 8.7
    /// - Layout: `u8 of { b-node = 1, p-node = 2, m-node = 4, h-node = 8 }`
    /// - Example: `h-node`
    /// - Its octets: `08`
    /// - Sent by: servers
    NETBIOS_NODE_TYPE: u8 = 46,
    /// The NetBIOS scope.
    ///
    /// - Option: `v4:47` (`netbios-scope`), RFC 2132, section 8.8
    /// - Layout: `text`
    /// - Example: `tarnfell`
    /// - Its octets: `74:61:72:6e:66:65:6c:6c`
    /// - Sent by: servers
    NETBIOS_SCOPE: String = 47,
    /// X font servers, best first.
    ///
    /// - Option: `v4:48` (`x-window-font`), RFC 2132, section 8.9
    /// - Layout: `ipv4+`
    /// - Example: `10.64.0.66`
    /// - Its octets: `0a:40:00:42`
    /// - Sent by: servers
    X_WINDOW_FONT: Vec<Ipv4Addr> = 48,
    /// X display managers, best first.
    ///
    /// - Option: `v4:49` (`x-window-manager`), RFC 2132, section 8.10
    /// - Layout: `ipv4+`
    /// - Example: `10.64.0.67`
    /// - Its octets: `0a:40:00:43`
    /// - Sent by: servers
    X_WINDOW_MANAGER: Vec<Ipv4Addr> = 49,
    /// The address the client requests.
    ///
    /// - Option: `v4:50` (`address-request`), RFC 2132, section 9.1
    /// - Layout: `ipv4 as any`
    /// - Example: `10.64.4.20`
    /// - Its octets: `0a:40:04:14`
    /// - Sent by: clients, automatically: no plan sends it
    ADDRESS_REQUEST: Ipv4Addr = 50,
    /// How long the lease lasts.
    ///
    /// - Option: `v4:51` (`address-time`), RFC 2132, section 9.2
    /// - Layout: `seconds`
    /// - Example: `8h`
    /// - Its octets: `00:00:70:80`
    /// - Sent by: clients and servers, automatically: no plan sends it
    ADDRESS_TIME: Duration = 51,
    /// Which header fields hold options too.
    ///
    /// - Option: `v4:52` (`overload`), RFC 2132, section 9.3
    /// - Layout: `u8 of { file = 1, sname = 2, file-and-sname = 3 }`
    /// - Example: `file`
    /// - Its octets: `01`
    /// - Sent by: clients and servers, automatically: no plan sends it
    OVERLOAD: u8 = 52,
    /// What the message is.
    ///
    /// - Option: `v4:53` (`dhcp-msg-type`), RFC 2132, section 9.6
    /// - Layout: `u8 of message-type`
    /// - Example: `DHCPDISCOVER`
    /// - Its octets: `01`
    /// - Sent by: clients and servers, automatically: no plan sends it
    DHCP_MSG_TYPE: MessageType = 53,
    /// The server that speaks, or that is meant.
    ///
    /// - Option: `v4:54` (`dhcp-server-id`), RFC 2132, section 9.7
    /// - Layout: `ipv4`
    /// - Example: `10.64.0.10`
    /// - Its octets: `0a:40:00:0a`
    /// - Sent by: clients and servers, automatically: no plan sends it
    DHCP_SERVER_ID: Ipv4Addr = 54,
    /// Codes of the options the client requests, in its order of preference.
    ///
    /// - Option: `v4:55` (`parameter-list`), RFC 2132, section 9.8
    /// - Layout: `(u8 code v4)+`
    /// - Example: `1, 121, 3, 6, 15, 42`
    /// - Its octets: `01:79:03:06:0f:2a`
    /// - Sent by: clients, automatically: no plan sends it
    PARAMETER_LIST: Vec<u8> = 55,
    /// A message for people, in refusals.
    ///
    /// - Option: `v4:56` (`dhcp-message`), RFC 2132, section 9.9
    /// - Layout: `text`
    /// - Example: `no free addresses on this subnet`
    /// - Its octets: `6e:6f:20:66:72:65:65:20:61:64:64:72:65:73:73:65:73:20:6f:6e:20:74:68:69 … (32 octets)`
    /// - Sent by: clients and servers, automatically: no plan sends it
    DHCP_MESSAGE: String = 56,
    /// Longest message the client takes, with IP and UDP headers.
    ///
    /// - Option: `v4:57` (`dhcp-max-msg-size`), RFC 2132, section 9.10
    /// - Layout: `u16 in 576..`
    /// - Example: `1500`
    /// - Its octets: `05:dc`
    /// - Sent by: clients, automatically: no plan sends it
    DHCP_MAX_MSG_SIZE: u16 = 57,
    /// When the client starts to renew (T1).
    ///
    /// - Option: `v4:58` (`renewal-time`), RFC 2132, section 9.11
    /// - Layout: `seconds`
    /// - Example: `4h`
    /// - Its octets: `00:00:38:40`
    /// - Sent by: servers
    #[doc(alias("renew", "t1"))]
    RENEWAL_TIME: Duration = 58,
    /// When the client starts to rebind (T2).
    ///
    /// - Option: `v4:59` (`rebinding-time`), RFC 2132, section 9.12
    /// - Layout: `seconds`
    /// - Example: `7h`
    /// - Its octets: `00:00:62:70`
    /// - Sent by: servers
    #[doc(alias("rebind", "t2"))]
    REBINDING_TIME: Duration = 59,
    /// What kind of device the client is, in its vendor's words; some boot clients require theirs back.
    ///
    /// - Option: `v4:60` (`class-id`), RFC 2132, section 9.13
    /// - Layout: `bytes`
    /// - Example: `54:65:72:6e:20:44:32`
    /// - Its octets: `54:65:72:6e:20:44:32`
    /// - Sent by: clients and servers
    #[doc(alias("vendor-class", "vendor", "phone"))]
    CLASS_ID: Vec<u8> = 60,
    /// Who the client is, apart from its hardware address.
    ///
    /// - Option: `v4:61` (`client-id`), RFC 2132, section 9.14
    /// - Layout: `{ type: u8 of client-id-type, id: by type { 255 => { iaid: u32, duid: duid }, else => bytes } }`
    /// - Example: `{ type = ethernet, id = 02:00:5e:00:53:11 }`
    /// - Its octets: `01:02:00:5e:00:53:11`
    /// - Sent by: clients and servers, automatically: no plan sends it
    CLIENT_ID: Value = 61,
    /// The NetWare/IP domain.
    ///
    /// - Option: `v4:62` (`netware-ip-domain`), RFC 2242, section 2
    /// - Layout: `text{1..255}`
    /// - Example: `tarnfell`
    /// - Its octets: `74:61:72:6e:66:65:6c:6c`
    /// - Sent by: servers
    NETWARE_IP_DOMAIN: String = 62,
    /// NetWare/IP settings.
    ///
    /// - Option: `v4:63` (`netware-ip-option`), RFC 2242, section 3
    /// - Layout: `options(nwip)`
    /// - Example: `{ nwip-exist-in-options-area = true, autoretries = 3 }`
    /// - Its octets: `02:00:08:01:03`
    /// - Sent by: servers
    NETWARE_IP_OPTION: Value = 63,
    /// The NIS+ domain.
    ///
    /// - Option: `v4:64` (`nis-domain-name`), RFC 2132, section 8.11
    /// - Layout: `text`
    /// - Example: `tarnfell`
    /// - Its octets: `74:61:72:6e:66:65:6c:6c`
    /// - Sent by: servers
    NIS_DOMAIN_NAME: String = 64,
    /// NIS+ servers, best first.
    ///
    /// - Option: `v4:65` (`nis-server-addr`), RFC 2132, section 8.12
    /// - Layout: `ipv4+`
    /// - Example: `10.64.0.68`
    /// - Its octets: `0a:40:00:44`
    /// - Sent by: servers
    NIS_SERVER_ADDR: Vec<Ipv4Addr> = 65,
    /// Name of the TFTP server, when sname carries options.
    ///
    /// - Option: `v4:66` (`server-name`), RFC 2132, section 9.4
    /// - Layout: `text`
    /// - Example: `boot.tarnfell.example`
    /// - Its octets: `62:6f:6f:74:2e:74:61:72:6e:66:65:6c:6c:2e:65:78:61:6d:70:6c:65`
    /// - Sent by: servers
    #[doc(alias("tftp", "boot", "phone"))]
    SERVER_NAME: String = 66,
    /// Name of the boot file, when file carries options.
    ///
    /// - Option: `v4:67` (`bootfile-name`), RFC 2132, section 9.5
    /// - Layout: `text`
    /// - Example: `domes/controller.efi`
    /// - Its octets: `64:6f:6d:65:73:2f:63:6f:6e:74:72:6f:6c:6c:65:72:2e:65:66:69`
    /// - Sent by: servers
    #[doc(alias("boot"))]
    BOOTFILE_NAME: String = 67,
    /// Mobile IP home agents, best first; none says there is none.
    ///
    /// - Option: `v4:68` (`home-agent-addrs`), RFC 2132, section 8.13
    /// - Layout: `ipv4*`
    /// - Example: `10.64.0.69`
    /// - Its octets: `0a:40:00:45`
    /// - Sent by: servers
    HOME_AGENT_ADDRS: Vec<Ipv4Addr> = 68,
    /// Mail (SMTP) servers, best first.
    ///
    /// - Option: `v4:69` (`smtp-server`), RFC 2132, section 8.14
    /// - Layout: `ipv4+`
    /// - Example: `10.64.0.25`
    /// - Its octets: `0a:40:00:19`
    /// - Sent by: servers
    #[doc(alias("mail"))]
    SMTP_SERVER: Vec<Ipv4Addr> = 69,
    /// Mail (POP3) servers, best first.
    ///
    /// - Option: `v4:70` (`pop3-server`), RFC 2132, section 8.15
    /// - Layout: `ipv4+`
    /// - Example: `10.64.0.110`
    /// - Its octets: `0a:40:00:6e`
    /// - Sent by: servers
    #[doc(alias("mail"))]
    POP3_SERVER: Vec<Ipv4Addr> = 70,
    /// News (NNTP) servers, best first.
    ///
    /// - Option: `v4:71` (`nntp-server`), RFC 2132, section 8.16
    /// - Layout: `ipv4+`
    /// - Example: `10.64.0.119`
    /// - Its octets: `0a:40:00:77`
    /// - Sent by: servers
    NNTP_SERVER: Vec<Ipv4Addr> = 71,
    /// Default web servers, best first.
    ///
    /// - Option: `v4:72` (`www-server`), RFC 2132, section 8.17
    /// - Layout: `ipv4+`
    /// - Example: `10.64.0.80`
    /// - Its octets: `0a:40:00:50`
    /// - Sent by: servers
    WWW_SERVER: Vec<Ipv4Addr> = 72,
    /// Finger servers, best first.
    ///
    /// - Option: `v4:73` (`finger-server`), RFC 2132, section 8.18
    /// - Layout: `ipv4+`
    /// - Example: `10.64.0.79`
    /// - Its octets: `0a:40:00:4f`
    /// - Sent by: servers
    FINGER_SERVER: Vec<Ipv4Addr> = 73,
    /// Chat (IRC) servers, best first.
    ///
    /// - Option: `v4:74` (`irc-server`), RFC 2132, section 8.19
    /// - Layout: `ipv4+`
    /// - Example: `10.64.0.194`
    /// - Its octets: `0a:40:00:c2`
    /// - Sent by: servers
    IRC_SERVER: Vec<Ipv4Addr> = 74,
    /// StreetTalk servers, best first.
    ///
    /// - Option: `v4:75` (`streettalk-server`), RFC 2132, section 8.20
    /// - Layout: `ipv4+`
    /// - Example: `10.64.0.71`
    /// - Its octets: `0a:40:00:47`
    /// - Sent by: servers
    STREETTALK_SERVER: Vec<Ipv4Addr> = 75,
    /// StreetTalk directory assistance servers, best first.
    ///
    /// - Option: `v4:76` (`stda-server`), RFC 2132, section 8.21
    /// - Layout: `ipv4+`
    /// - Example: `10.64.0.72`
    /// - Its octets: `0a:40:00:48`
    /// - Sent by: servers
    STDA_SERVER: Vec<Ipv4Addr> = 76,
    /// Classes the client's user or site has put it in.
    ///
    /// - Option: `v4:77` (`user-class`), RFC 3004, section 4
    /// - Layout: `len8(bytes)+`
    /// - Example: `64:6f:6d:65`
    /// - Its octets: `04:64:6f:6d:65`
    /// - Sent by: clients, automatically: no plan sends it
    USER_CLASS: Value = 77,
    /// Service Location directory agents, best first.
    ///
    /// - Option: `v4:78` (`directory-agent`), RFC 2610, section 3
    /// - Layout: `{ mandatory: u8 of { no = 0, yes = 1 }, agents: ipv4+ }`
    /// - Example: `{ mandatory = no, agents = 10.64.0.73 }`
    /// - Its octets: `00:0a:40:00:49`
    /// - Sent by: servers
    #[doc(alias("slp"))]
    DIRECTORY_AGENT: Value = 78,
    /// Service Location scopes, separated by commas.
    ///
    /// - Option: `v4:79` (`service-scope`), RFC 2610, section 4
    /// - Layout: `{ mandatory: u8 of { local-first = 0, yes = 1 }, scopes: utf8* }`
    /// - Example: `{ mandatory = local-first, scopes = "observatory,visitors" }`
    /// - Its octets: `00:6f:62:73:65:72:76:61:74:6f:72:79:2c:76:69:73:69:74:6f:72:73`
    /// - Sent by: servers
    #[doc(alias("slp"))]
    SERVICE_SCOPE: Value = 79,
    /// Two messages instead of four.
    ///
    /// - Option: `v4:80` (`rapid-commit`), RFC 4039, section 4
    /// - Layout: `empty`
    /// - Example: `true`
    /// - Its octets: ``
    /// - Sent by: clients and servers, automatically: no plan sends it
    RAPID_COMMIT: Value = 80,
    /// The client's full name, and who updates DNS.
    ///
    /// - Option: `v4:81` (`client-fqdn`), RFC 4702, section 2
    /// - Layout: `{ flags: u8 flags { s = 1, o = 2, e = 4, n = 8 }, rcode1: u8 of rcode, rcode2: u8 of rcode, name: by flags.e { 1 => partial-name, 0 => text* } }`
    /// - Example: `{ flags = s+e, rcode1 = from-client, rcode2 = from-client, name = dome-3.tarnfell.example. }`
    /// - Its octets: `05:00:00:06:64:6f:6d:65:2d:33:08:74:61:72:6e:66:65:6c:6c:07:65:78:61:6d … (28 octets)`
    /// - Sent by: clients and servers, automatically: no plan sends it
    #[doc(alias("fqdn", "dns"))]
    CLIENT_FQDN: ClientFqdn = 81,
    /// What a relay agent knows about where the client is attached.
    ///
    /// - Option: `v4:82` (`relay-agent-information`), RFC 3046, section 2.0
    /// - Layout: `options(relay-agent)`
    /// - Example: `{ agent-circuit-id = 70:6f:72:74:37, agent-remote-id = 02:00:5e:00:53:fe }`
    /// - Its octets: `01:05:70:6f:72:74:37:02:06:02:00:5e:00:53:fe`
    /// - Sent by: relay agents, automatically: no plan sends it
    #[doc(alias("relay", "port"))]
    RELAY_AGENT_INFORMATION: RelayInformation = 82,
    /// Internet storage name servers and how to use them.
    ///
    /// - Option: `v4:83` (`isns`), RFC 4174, section 2
    /// - Layout: `{ functions: u16 flags { enabled = 1, dd-authorization = 2, security-policy-distribution = 4 }, dd-access: u16 flags { enabled = 1, control-node = 2, iscsi-target = 4, iscsi-initiator = 8, ifcp-target-port = 16, ifcp-initiator-port = 32 }, admin-flags: u16 flags { enabled = 1, heartbeat = 2, management-scns = 4, default-discovery-domain = 8 }, security: u32 flags { enabled = 1, ike-ipsec = 2, main-mode = 4, aggressive-mode = 8, pfs = 16, transport-mode = 32, tunnel-mode = 64 }, addresses: (ipv4 as any)+ }`
    /// - Example: `{ functions = enabled, dd-access = enabled, admin-flags = enabled, security = none, addresses = 10.64.0.74 }`
    /// - Its octets: `00:01:00:01:00:01:00:00:00:00:0a:40:00:4a`
    /// - Sent by: servers
    #[doc(alias("storage", "iscsi"))]
    ISNS: Value = 83,
    /// NDS servers, best first.
    ///
    /// - Option: `v4:85` (`nds-servers`), RFC 2241, section 2
    /// - Layout: `ipv4+`
    /// - Example: `10.64.0.75`
    /// - Its octets: `0a:40:00:4b`
    /// - Sent by: servers
    NDS_SERVERS: Vec<Ipv4Addr> = 85,
    /// The NDS tree.
    ///
    /// - Option: `v4:86` (`nds-tree-name`), RFC 2241, section 3
    /// - Layout: `utf8{1..255}`
    /// - Example: `TARNFELL`
    /// - Its octets: `54:41:52:4e:46:45:4c:4c`
    /// - Sent by: servers
    NDS_TREE_NAME: String = 86,
    /// The NDS context.
    ///
    /// - Option: `v4:87` (`nds-context`), RFC 2241, section 4
    /// - Layout: `utf8`
    /// - Example: `observatory.tarnfell`
    /// - Its octets: `6f:62:73:65:72:76:61:74:6f:72:79:2e:74:61:72:6e:66:65:6c:6c`
    /// - Sent by: servers
    NDS_CONTEXT: String = 87,
    /// Broadcast and multicast service controllers, by name.
    ///
    /// - Option: `v4:88` (`bcmcs-controller-domain-name-list`), RFC 4280, section 4.1
    /// - Layout: `name+`
    /// - Example: `bcmcs.tarnfell.example`
    /// - Its octets: `05:62:63:6d:63:73:08:74:61:72:6e:66:65:6c:6c:07:65:78:61:6d:70:6c:65:00`
    /// - Sent by: servers
    BCMCS_CONTROLLER_DOMAIN_NAME_LIST: Vec<String> = 88,
    /// Broadcast and multicast service controllers, by address.
    ///
    /// - Option: `v4:89` (`bcmcs-controller-ipv4-address`), RFC 4280, section 4.3
    /// - Layout: `ipv4+`
    /// - Example: `10.64.0.76`
    /// - Its octets: `0a:40:00:4c`
    /// - Sent by: servers
    BCMCS_CONTROLLER_IPV4_ADDRESS: Vec<Ipv4Addr> = 89,
    /// Proof of who sent the message.
    ///
    /// - Option: `v4:90` (`authentication`), RFC 3118, section 2
    /// - Layout: `{ protocol: u8 of authentication-protocol, algorithm: u8, rdm: u8 of replay-detection, replay-detection: u64, information: by protocol { 1 => { secret-id: u32, hmac-md5: bytes{16} }?, 3 => { type: u8 of { nonce = 1, hmac-md5-digest = 2 }, value: bytes{16} }, else => bytes* } }`
    /// - Example: `{ protocol = delayed, algorithm = 1, rdm = monotonic-counter, replay-detection = 1, information = { secret-id = 7, hmac-md5 = 000102030405060708090a0b0c0d0e0f } }`
    /// - Its octets: `01:01:00:00:00:00:00:00:00:00:01:00:00:00:07:00:01:02:03:04:05:06:07:08 … (31 octets)`
    /// - Sent by: clients and servers, automatically: no plan sends it
    AUTHENTICATION: Value = 90,
    /// Seconds since the client last spoke, in lease queries.
    ///
    /// - Option: `v4:91` (`client-last-transaction-time`), RFC 4388, section 6.1
    /// - Layout: `u32 unit seconds`
    /// - Example: `120`
    /// - Its octets: `00:00:00:78`
    /// - Sent by: servers, automatically: no plan sends it
    CLIENT_LAST_TRANSACTION_TIME: u32 = 91,
    /// All addresses of one client, in lease queries.
    ///
    /// - Option: `v4:92` (`associated-ip`), RFC 4388, section 6.1
    /// - Layout: `ipv4+`
    /// - Example: `10.64.4.20, 10.64.4.21`
    /// - Its octets: `0a:40:04:14:0a:40:04:15`
    /// - Sent by: servers, automatically: no plan sends it
    ASSOCIATED_IP: Vec<Ipv4Addr> = 92,
    /// What machine is booting, and how.
    ///
    /// - Option: `v4:93` (`client-system`), RFC 4578, section 2.1
    /// - Layout: `(u16 of architecture)+`
    /// - Example: `x64-uefi`
    /// - Its octets: `00:07`
    /// - Sent by: clients and servers, automatically: no plan sends it
    #[doc(alias("pxe", "boot"))]
    CLIENT_SYSTEM: Vec<u16> = 93,
    /// The network boot interface of the machine.
    ///
    /// - Option: `v4:94` (`client-ndi`), RFC 4578, section 2.2
    /// - Layout: `{ type: u8 of { undi = 1 }, major: u8, minor: u8 }`
    /// - Example: `{ type = undi, major = 3, minor = 16 }`
    /// - Its octets: `01:03:10`
    /// - Sent by: clients and servers, automatically: no plan sends it
    #[doc(alias("pxe", "boot"))]
    CLIENT_NDI: Value = 94,
    /// The machine's unique identifier.
    ///
    /// - Option: `v4:97` (`uuid-guid`), RFC 4578, section 2.3
    /// - Layout: `{ type: u8 of machine-id, id: by type { 0 => guid, else => bytes* } }`
    /// - Example: `{ type = guid, id = 123e4567-e89b-12d3-a456-426614174000 }`
    /// - Its octets: `00:67:45:3e:12:9b:e8:d3:12:a4:56:42:66:14:17:40:00`
    /// - Sent by: clients and servers, automatically: no plan sends it
    #[doc(alias("pxe", "boot", "uuid"))]
    UUID_GUID: Value = 97,
    /// Where users prove who they are: URLs separated by spaces.
    ///
    /// - Option: `v4:98` (`user-auth`), RFC 2485, "User Authentication Protocol Option"
    /// - Layout: `text`
    /// - Example: `https://login.tarnfell.example/uap`
    /// - Its octets: `68:74:74:70:73:3a:2f:2f:6c:6f:67:69:6e:2e:74:61:72:6e:66:65:6c:6c:2e:65 … (34 octets)`
    /// - Sent by: servers
    USER_AUTH: String = 98,
    /// Where the client is, as a postal address.
    ///
    /// - Option: `v4:99` (`geoconf-civic`), RFC 4776, section 3.1
    /// - Layout: `{ what: u8 of { dhcp-server = 0, network-element = 1, client = 2 }, country: text{2}, elements: { catype: u8 of civic, value: len8(utf8*) }* }`
    /// - Example: `{ what = client, country = NO, elements = [{ catype = a3, value = Tarnfell }, { catype = room, value = "7" }] }`
    /// - Its octets: `02:4e:4f:03:08:54:61:72:6e:66:65:6c:6c:1c:01:37`
    /// - Sent by: servers
    #[doc(alias("location", "civic"))]
    GEOCONF_CIVIC: Value = 99,
    /// Time zone as a POSIX TZ text.
    ///
    /// - Option: `v4:100` (`pcode`), RFC 4833, section 2
    /// - Layout: `text`
    /// - Example: `CET-1CEST,M3.5.0,M10.5.0/3`
    /// - Its octets: `43:45:54:2d:31:43:45:53:54:2c:4d:33:2e:35:2e:30:2c:4d:31:30:2e:35:2e:30 … (26 octets)`
    /// - Sent by: servers
    #[doc(alias("timezone", "time"))]
    PCODE: String = 100,
    /// Time zone as a name of the TZ database.
    ///
    /// - Option: `v4:101` (`tcode`), RFC 4833, section 2
    /// - Layout: `text`
    /// - Example: `Europe/Oslo`
    /// - Its octets: `45:75:72:6f:70:65:2f:4f:73:6c:6f`
    /// - Sent by: servers
    #[doc(alias("timezone", "time"))]
    TCODE: String = 101,
    /// The client may do without IPv4, for this many seconds.
    ///
    /// - Option: `v4:108` (`ipv6-only-preferred`), RFC 8925, section 3.1
    /// - Layout: `u32 unit seconds`
    /// - Example: `1800`
    /// - Its octets: `00:00:07:08`
    /// - Sent by: servers
    IPV6_ONLY_PREFERRED: u32 = 108,
    /// The softwire source address of DHCPv4 over DHCPv6.
    ///
    /// - Option: `v4:109` (`dhcp4o6-s46-saddr`), RFC 8539, section 6.2
    /// - Layout: `ipv6`
    /// - Example: `2001:db8:64::1`
    /// - Its octets: `20:01:0d:b8:00:64:00:00:00:00:00:00:00:00:00:01`
    /// - Sent by: clients and servers, automatically: no plan sends it
    DHCP4O6_S46_SADDR: Ipv6Addr = 109,
    /// Where the captive portal's API is.
    ///
    /// - Option: `v4:114` (`dhcp-captive-portal`), RFC 8910, section 2.1
    /// - Layout: `uri{1..255}`
    /// - Example: `https://portal.tarnfell.example/api`
    /// - Its octets: `68:74:74:70:73:3a:2f:2f:70:6f:72:74:61:6c:2e:74:61:72:6e:66:65:6c:6c:2e … (35 octets)`
    /// - Sent by: servers
    #[doc(alias("portal", "wifi", "visitor"))]
    DHCP_CAPTIVE_PORTAL: String = 114,
    /// Whether the client may give itself a link-local address.
    ///
    /// - Option: `v4:116` (`auto-config`), RFC 2563, section 2
    /// - Layout: `u8 of { do-not-auto-configure = 0, auto-configure = 1 }`
    /// - Example: `do-not-auto-configure`
    /// - Its octets: `00`
    /// - Sent by: clients and servers
    AUTO_CONFIG: u8 = 116,
    /// Order in which the client uses its name services.
    ///
    /// - Option: `v4:117` (`name-service-search`), RFC 2937, "Name Service Search Option Format"
    /// - Layout: `(u16 of name-service)+`
    /// - Example: `domain-server, local-naming`
    /// - Its octets: `00:06:00:00`
    /// - Sent by: servers
    NAME_SERVICE_SEARCH: Vec<u16> = 117,
    /// The subnet the client should get an address on.
    ///
    /// - Option: `v4:118` (`subnet-selection`), RFC 3011, section 2
    /// - Layout: `ipv4 as network`
    /// - Example: `10.64.4.0`
    /// - Its octets: `0a:40:04:00`
    /// - Sent by: clients and servers, automatically: no plan sends it
    SUBNET_SELECTION: Ipv4Addr = 118,
    /// Domains the client tries for short names, in order.
    ///
    /// - Option: `v4:119` (`domain-search`), RFC 3397, section 2
    /// - Layout: `compressed-names`
    /// - Example: `tarnfell.example, domes.tarnfell.example`
    /// - Its octets: `08:74:61:72:6e:66:65:6c:6c:07:65:78:61:6d:70:6c:65:00:05:64:6f:6d:65:73 … (26 octets)`
    /// - Sent by: servers
    #[doc(alias("search", "dns"))]
    DOMAIN_SEARCH: Vec<String> = 119,
    /// SIP servers, as names or as addresses.
    ///
    /// - Option: `v4:120` (`sip-servers`), RFC 3361, section 3
    /// - Layout: `{ encoding: u8 of { names = 0, addresses = 1 }, servers: by encoding { 0 => lenient-names, 1 => ipv4+ } }`
    /// - Example: `{ encoding = addresses, servers = 10.64.0.70 }`
    /// - Its octets: `01:0a:40:00:46`
    /// - Sent by: servers
    #[doc(alias("sip", "phone", "voip"))]
    SIP_SERVERS: Value = 120,
    /// Routes with prefix lengths; clients that read it ignore router and static-route.
    ///
    /// - Option: `v4:121` (`classless-static-route`), RFC 3442, "Classless Route Option Format"
    /// - Layout: `route4+`
    /// - Example: `10.64.8.0/21 via 10.64.4.1, 0.0.0.0/0 via 10.64.4.1`
    /// - Its octets: `15:0a:40:08:0a:40:04:01:00:0a:40:04:01`
    /// - Sent by: servers
    #[doc(alias("routes"))]
    CLASSLESS_STATIC_ROUTE: Vec<Route4> = 121,
    /// Settings of cable telephony devices.
    ///
    /// - Option: `v4:122` (`ccc`), RFC 3495, section 4
    /// - Layout: `options(ccc)`
    /// - Example: `{ tsps-primary-dhcp-server-address = 10.64.0.77 }`
    /// - Its octets: `01:04:0a:40:00:4d`
    /// - Sent by: servers
    #[doc(alias("phone", "cable"))]
    CCC: Value = 122,
    /// Where the client is, as coordinates with their resolution.
    ///
    /// - Option: `v4:123` (`geoconf`), RFC 6225, section 2.2.1
    /// - Layout: `bits { lares: 6 in 0..=34, latitude: s9.25 in -90..=90, lores: 6 in 0..=34, longitude: s9.25 in -180..=180, atype: 4 of altitude-type, altres: 6, altitude: s22.8, reserved: 5, datum: 3 of datum }`
    /// - Example: `{ lares = 34, latitude = 62.5, lores = 34, longitude = 9.25, atype = metres, altres = 30, altitude = 1480, datum = wgs84 }`
    /// - Its octets: `88:7d:00:00:00:88:12:80:00:00:17:80:05:c8:00:01`
    /// - Sent by: servers
    #[doc(alias("location", "gps"))]
    GEOCONF: Value = 123,
    /// What kind of device the client is, by enterprise number.
    ///
    /// - Option: `v4:124` (`v-i-vendor-class`), RFC 3925, section 3
    /// - Layout: `{ enterprise: u32, data: len8(len8(bytes*)*) }+`
    /// - Example: `{ enterprise = 32473, data = 54:65:72:6e }`
    /// - Its octets: `00:00:7e:d9:05:04:54:65:72:6e`
    /// - Sent by: clients and servers, automatically: no plan sends it
    #[doc(alias("vendor-class", "vendor", "phone"))]
    V_I_VENDOR_CLASS: Value = 124,
    /// A vendor's own sub-options, by enterprise number.
    ///
    /// - Option: `v4:125` (`v-i-vendor-specific-information`), RFC 3925, section 4
    /// - Layout: `{ enterprise: u32, data: len8(options(vendor by enterprise)*) }+`
    /// - Example: `{ enterprise = 32473, data = { "1" = 0a:40:00:46 } }`
    /// - Its octets: `00:00:7e:d9:06:01:04:0a:40:00:46`
    /// - Sent by: clients and servers
    #[doc(alias("vendor", "phone", "radio"))]
    V_I_VENDOR_SPECIFIC_INFORMATION: Value = 125,
    /// Undefined by PXE. Also: boot loader signature, phones' TFTP server.
    ///
    /// - Option: `v4:128` (`pxe-undefined-128`), RFC 4578, section 2.4
    /// - Layout: `bytes*`
    /// - Example: `01`
    /// - Its octets: `01`
    /// - Sent by: servers
    #[doc(alias("pxe", "boot", "phone", "tftp", "cable"))]
    PXE_UNDEFINED_128: Vec<u8> = 128,
    /// Undefined by PXE. Also: kernel options, phones' call server.
    ///
    /// - Option: `v4:129` (`pxe-undefined-129`), RFC 4578, section 2.4
    /// - Layout: `bytes*`
    /// - Example: `01`
    /// - Its octets: `01`
    /// - Sent by: servers
    #[doc(alias("pxe", "boot", "phone", "call", "voip"))]
    PXE_UNDEFINED_129: Vec<u8> = 129,
    /// Undefined by PXE. Also: network interface, phones' discrimination string.
    ///
    /// - Option: `v4:130` (`pxe-undefined-130`), RFC 4578, section 2.4
    /// - Layout: `bytes*`
    /// - Example: `01`
    /// - Its octets: `01`
    /// - Sent by: servers
    #[doc(alias("pxe", "boot", "phone", "voip"))]
    PXE_UNDEFINED_130: Vec<u8> = 130,
    /// Undefined by PXE. Also: phones' remote statistics server.
    ///
    /// - Option: `v4:131` (`pxe-undefined-131`), RFC 4578, section 2.4
    /// - Layout: `bytes*`
    /// - Example: `01`
    /// - Its octets: `01`
    /// - Sent by: servers
    #[doc(alias("pxe", "boot", "phone", "statistics", "voip"))]
    PXE_UNDEFINED_131: Vec<u8> = 131,
    /// Undefined by PXE. Also: phones' VLAN (IEEE 802.1Q).
    ///
    /// - Option: `v4:132` (`pxe-undefined-132`), RFC 4578, section 2.4
    /// - Layout: `bytes*`
    /// - Example: `01`
    /// - Its octets: `01`
    /// - Sent by: servers
    #[doc(alias("pxe", "boot", "phone", "vlan", "voip"))]
    PXE_UNDEFINED_132: Vec<u8> = 132,
    /// Undefined by PXE. Also: phones' layer 2 priority (IEEE 802.1D/p).
    ///
    /// - Option: `v4:133` (`pxe-undefined-133`), RFC 4578, section 2.4
    /// - Layout: `bytes*`
    /// - Example: `01`
    /// - Its octets: `01`
    /// - Sent by: servers
    #[doc(alias("pxe", "boot", "phone", "priority", "qos"))]
    PXE_UNDEFINED_133: Vec<u8> = 133,
    /// Undefined by PXE. Also: phones' Diffserv code point.
    ///
    /// - Option: `v4:134` (`pxe-undefined-134`), RFC 4578, section 2.4
    /// - Layout: `bytes*`
    /// - Example: `01`
    /// - Its octets: `01`
    /// - Sent by: servers
    #[doc(alias("pxe", "boot", "phone", "dscp", "qos"))]
    PXE_UNDEFINED_134: Vec<u8> = 134,
    /// Undefined by PXE. Also: HTTP proxy of phones' programs.
    ///
    /// - Option: `v4:135` (`pxe-undefined-135`), RFC 4578, section 2.4
    /// - Layout: `bytes*`
    /// - Example: `01`
    /// - Its octets: `01`
    /// - Sent by: servers
    #[doc(alias("pxe", "boot", "phone", "proxy"))]
    PXE_UNDEFINED_135: Vec<u8> = 135,
    /// PANA authentication agents, best first.
    ///
    /// - Option: `v4:136` (`pana-agent`), RFC 5192, section 4
    /// - Layout: `ipv4+`
    /// - Example: `10.64.0.78`
    /// - Its octets: `0a:40:00:4e`
    /// - Sent by: servers
    PANA_AGENT: Vec<Ipv4Addr> = 136,
    /// The server that maps places to emergency services.
    ///
    /// - Option: `v4:137` (`v4-lost`), RFC 5223, section 4
    /// - Layout: `name`
    /// - Example: `lost.tarnfell.example`
    /// - Its octets: `04:6c:6f:73:74:08:74:61:72:6e:66:65:6c:6c:07:65:78:61:6d:70:6c:65:00`
    /// - Sent by: servers
    #[doc(alias("emergency"))]
    V4_LOST: String = 137,
    /// Controllers that access points report to, best first.
    ///
    /// - Option: `v4:138` (`capwap-ac-v4`), RFC 5417, section 2
    /// - Layout: `ipv4+`
    /// - Example: `10.64.0.90, 10.64.0.91`
    /// - Its octets: `0a:40:00:5a:0a:40:00:5b`
    /// - Sent by: servers
    #[doc(alias("capwap", "radio", "wifi", "access-point", "controller"))]
    CAPWAP_AC_V4: Vec<Ipv4Addr> = 138,
    /// Mobility servers, by address.
    ///
    /// - Option: `v4:139` (`ipv4-address-mos`), RFC 5678, section 2
    /// - Layout: `options(mos-address)`
    /// - Example: `{ is = 10.64.0.81 }`
    /// - Its octets: `01:04:0a:40:00:51`
    /// - Sent by: servers
    IPV4_ADDRESS_MOS: Value = 139,
    /// Mobility servers, by name.
    ///
    /// - Option: `v4:140` (`ipv4-fqdn-mos`), RFC 5678, section 3
    /// - Layout: `options(mos-name)`
    /// - Example: `{ is = mos.tarnfell.example }`
    /// - Its octets: `01:16:03:6d:6f:73:08:74:61:72:6e:66:65:6c:6c:07:65:78:61:6d:70:6c:65:00`
    /// - Sent by: servers
    IPV4_FQDN_MOS: Value = 140,
    /// Domains to look for SIP user agent configuration in.
    ///
    /// - Option: `v4:141` (`sip-ua-configuration-service-domains`), RFC 6011, section 4.1
    /// - Layout: `compressed-names`
    /// - Example: `tarnfell.example`
    /// - Its octets: `08:74:61:72:6e:66:65:6c:6c:07:65:78:61:6d:70:6c:65:00`
    /// - Sent by: servers
    #[doc(alias("sip", "phone", "voip"))]
    SIP_UA_CONFIGURATION_SERVICE_DOMAINS: Vec<String> = 141,
    /// Access network discovery servers, best first.
    ///
    /// - Option: `v4:142` (`ipv4-address-andsf`), RFC 6153, section 2
    /// - Layout: `ipv4+`
    /// - Example: `10.64.0.82`
    /// - Its octets: `0a:40:00:52`
    /// - Sent by: servers
    IPV4_ADDRESS_ANDSF: Vec<Ipv4Addr> = 142,
    /// Where a device learns about its bootstrap servers.
    ///
    /// - Option: `v4:143` (`v4-sztp-redirect`), RFC 8572, section 8.1
    /// - Layout: `len16(uri)+`
    /// - Example: `https://sztp.tarnfell.example`
    /// - Its octets: `00:1d:68:74:74:70:73:3a:2f:2f:73:7a:74:70:2e:74:61:72:6e:66:65:6c:6c:2e … (31 octets)`
    /// - Sent by: servers
    #[doc(alias("provisioning", "boot"))]
    V4_SZTP_REDIRECT: Value = 143,
    /// Where the client is, as coordinates with their uncertainty.
    ///
    /// - Option: `v4:144` (`geoloc`), RFC 6225, section 2.2.2
    /// - Layout: `bits { latunc: 6 in 0..=34, latitude: s9.25 in -90..=90, longunc: 6 in 0..=34, longitude: s9.25 in -180..=180, atype: 4 of altitude-type, altunc: 6, altitude: s22.8, ver: 2 in 1..=1, reserved: 3, datum: 3 of datum }`
    /// - Example: `{ latunc = 18, latitude = 62.5, longunc = 18, longitude = 9.25, atype = metres, altunc = 15, altitude = 1480, ver = 1, datum = wgs84 }`
    /// - Its octets: `48:7d:00:00:00:48:12:80:00:00:13:c0:05:c8:00:41`
    /// - Sent by: servers
    #[doc(alias("location", "gps"))]
    GEOLOC: Value = 144,
    /// Ways the client can check a forced renewal.
    ///
    /// - Option: `v4:145` (`forcerenew-nonce-capable`), RFC 6704, section 3.1.1
    /// - Layout: `(u8 of nonce-algorithm in 1..)+`
    /// - Example: `hmac-md5`
    /// - Its octets: `01`
    /// - Sent by: clients and servers, automatically: no plan sends it
    FORCERENEW_NONCE_CAPABLE: Vec<u8> = 145,
    /// DNS servers for some domains only.
    ///
    /// - Option: `v4:146` (`rdnss-selection`), RFC 6731, section 4.3
    /// - Layout: `{ preference: bits { reserved: 6, prf: 2 of rdnss-preference }, primary: ipv4 as any, secondary: ipv4 as any, domains: name+ }`
    /// - Example: `{ preference = { prf = high }, primary = 10.64.0.53, secondary = 10.64.0.54, domains = domes.tarnfell.example }`
    /// - Its octets: `01:0a:40:00:35:0a:40:00:36:05:64:6f:6d:65:73:08:74:61:72:6e:66:65:6c:6c … (33 octets)`
    /// - Sent by: servers
    #[doc(alias("dns"))]
    RDNSS_SELECTION: Value = 146,
    /// Name of the server that hears about attacks (DOTS).
    ///
    /// - Option: `v4:147` (`v4-dots-ri`), RFC 8973, section 5.2.1
    /// - Layout: `name`
    /// - Example: `dots.tarnfell.example`
    /// - Its octets: `04:64:6f:74:73:08:74:61:72:6e:66:65:6c:6c:07:65:78:61:6d:70:6c:65:00`
    /// - Sent by: servers
    V4_DOTS_RI: String = 147,
    /// Addresses of the server that hears about attacks (DOTS).
    ///
    /// - Option: `v4:148` (`v4-dots-address`), RFC 8973, section 5.2.2
    /// - Layout: `ipv4+`
    /// - Example: `10.64.0.83`
    /// - Its octets: `0a:40:00:53`
    /// - Sent by: servers
    V4_DOTS_ADDRESS: Vec<Ipv4Addr> = 148,
    /// TFTP servers, best first; preferred over server-name. Also: a boot loader's configuration path.
    ///
    /// - Option: `v4:150` (`tftp-server-address`), RFC 5859, section 3
    /// - Layout: `ipv4+`
    /// - Example: `10.64.0.80`
    /// - Its octets: `0a:40:00:50`
    /// - Sent by: servers
    #[doc(alias("tftp", "boot", "phone", "voip"))]
    TFTP_SERVER_ADDRESS: Vec<Ipv4Addr> = 150,
    /// How a lease query went.
    ///
    /// - Option: `v4:151` (`status-code`), RFC 6926, section 6.2.2
    /// - Layout: `{ status: u8 of lease-query-status, message: utf8* }`
    /// - Example: `{ status = query-terminated, message = restarting }`
    /// - Its octets: `02:72:65:73:74:61:72:74:69:6e:67`
    /// - Sent by: servers, automatically: no plan sends it
    STATUS_CODE: Value = 151,
    /// The server's time, which other times of a lease query count from.
    ///
    /// - Option: `v4:152` (`base-time`), RFC 6926, section 6.2.3
    /// - Layout: `u32`
    /// - Example: `1785000000`
    /// - Its octets: `6a:64:f0:40`
    /// - Sent by: servers, automatically: no plan sends it
    BASE_TIME: u32 = 152,
    /// Seconds since the lease came to its state.
    ///
    /// - Option: `v4:153` (`start-time-of-state`), RFC 6926, section 6.2.4
    /// - Layout: `u32 unit seconds`
    /// - Example: `600`
    /// - Its octets: `00:00:02:58`
    /// - Sent by: servers, automatically: no plan sends it
    START_TIME_OF_STATE: u32 = 153,
    /// Start of the time a lease query is about.
    ///
    /// - Option: `v4:154` (`query-start-time`), RFC 6926, section 6.2.5
    /// - Layout: `u32`
    /// - Example: `1784990000`
    /// - Its octets: `6a:64:c9:30`
    /// - Sent by: clients, automatically: no plan sends it
    QUERY_START_TIME: u32 = 154,
    /// End of the time a lease query is about.
    ///
    /// - Option: `v4:155` (`query-end-time`), RFC 6926, section 6.2.6
    /// - Layout: `u32`
    /// - Example: `1785000000`
    /// - Its octets: `6a:64:f0:40`
    /// - Sent by: clients, automatically: no plan sends it
    QUERY_END_TIME: u32 = 155,
    /// The state of a lease.
    ///
    /// - Option: `v4:156` (`dhcp-state`), RFC 6926, section 6.2.7
    /// - Layout: `u8 of dhcp-state`
    /// - Example: `active`
    /// - Its octets: `02`
    /// - Sent by: servers, automatically: no plan sends it
    DHCP_STATE: u8 = 156,
    /// Whether the answer comes from another server's data.
    ///
    /// - Option: `v4:157` (`data-source`), RFC 6926, section 6.2.8
    /// - Layout: `u8 flags { remote = 1 }`
    /// - Example: `remote`
    /// - Its octets: `01`
    /// - Sent by: servers, automatically: no plan sends it
    DATA_SOURCE: u8 = 157,
    /// Port control servers: a list of addresses for each.
    ///
    /// - Option: `v4:158` (`v4-pcp-server`), RFC 7291, section 4.1
    /// - Layout: `len8(ipv4+)+`
    /// - Example: `[10.64.0.84], [10.64.0.85, 10.64.0.86]`
    /// - Its octets: `04:0a:40:00:54:08:0a:40:00:55:0a:40:00:56`
    /// - Sent by: servers
    V4_PCP_SERVER: Value = 158,
    /// The ports that go with a shared address.
    ///
    /// - Option: `v4:159` (`v4-portparams`), RFC 7618, section 9
    /// - Layout: `{ offset: u8 in 0..=15, psid-len: u8 in 0..=16, psid: u16 }`
    /// - Example: `{ offset = 6, psid-len = 8, psid = 0x3400 }`
    /// - Its octets: `06:08:34:00`
    /// - Sent by: clients and servers, automatically: no plan sends it
    V4_PORTPARAMS: Value = 159,
    /// Where the device's description of its own traffic is.
    ///
    /// - Option: `v4:161` (`mud-url-v4`), RFC 8520, section 10
    /// - Layout: `text-and-octets{1..255}`
    /// - Example: `https://mud.tarnfell.example/dome.json`
    /// - Its octets: `68:74:74:70:73:3a:2f:2f:6d:75:64:2e:74:61:72:6e:66:65:6c:6c:2e:65:78:61 … (38 octets)`
    /// - Sent by: clients, automatically: no plan sends it
    MUD_URL_V4: String = 161,
    /// DNS servers that are reached encrypted.
    ///
    /// - Option: `v4:162` (`v4-dnr`), RFC 9463, section 5.1
    /// - Layout: `len16({ priority: u16, authentication-domain: len8(name), addresses: len8(ipv4+)?, parameters: options(service-parameters)? })+`
    /// - Example: `{ priority = 1, authentication-domain = dns.tarnfell.example, addresses = 10.64.0.53, parameters = { alpn = "64:6f:74" } }`
    /// - Its octets: `00:26:00:01:16:03:64:6e:73:08:74:61:72:6e:66:65:6c:6c:07:65:78:61:6d:70 … (40 octets)`
    /// - Sent by: servers
    #[doc(alias("dns", "dot", "doh", "encrypted"))]
    V4_DNR: Value = 162,
    /// A magic number that marks options 209 to 211 for boot loaders.
    ///
    /// - Option: `v4:208` (`pxelinux-magic`), RFC 5071, section 3.2
    /// - Layout: `bytes{4}`
    /// - Example: `f1:00:74:7e`
    /// - Its octets: `f1:00:74:7e`
    /// - Sent by: servers
    /// - Status: deprecated
    #[doc(alias("boot"))]
    PXELINUX_MAGIC: Vec<u8> = 208,
    /// The boot loader's configuration file.
    ///
    /// - Option: `v4:209` (`configuration-file`), RFC 5071, section 4.2
    /// - Layout: `text`
    /// - Example: `domes/loader.conf`
    /// - Its octets: `64:6f:6d:65:73:2f:6c:6f:61:64:65:72:2e:63:6f:6e:66`
    /// - Sent by: servers
    #[doc(alias("boot", "pxe"))]
    CONFIGURATION_FILE: String = 209,
    /// What the boot loader puts before file names.
    ///
    /// - Option: `v4:210` (`path-prefix`), RFC 5071, section 5.2
    /// - Layout: `text`
    /// - Example: `domes/`
    /// - Its octets: `64:6f:6d:65:73:2f`
    /// - Sent by: servers
    #[doc(alias("boot", "pxe"))]
    PATH_PREFIX: String = 210,
    /// Seconds after which a boot loader that found no server starts again; 0 never.
    ///
    /// - Option: `v4:211` (`reboot-time`), RFC 5071, section 6.2
    /// - Layout: `u32 unit seconds`
    /// - Example: `300`
    /// - Its octets: `00:00:01:2c`
    /// - Sent by: servers
    #[doc(alias("boot", "pxe"))]
    REBOOT_TIME: u32 = 211,
    /// The 6rd domain: how IPv6 addresses follow from IPv4 ones.
    ///
    /// - Option: `v4:212` (`6rd`), RFC 5969, section 7.1.1
    /// - Layout: `{ ipv4-mask-len: u8 in 0..=32, prefix-len: u8 in 0..=128, prefix: ipv6 as network, border-relays: ipv4+ }`
    /// - Example: `{ ipv4-mask-len = 8, prefix-len = 32, prefix = 2001:db8::, border-relays = 10.64.0.87 }`
    /// - Its octets: `08:20:20:01:0d:b8:00:00:00:00:00:00:00:00:00:00:00:00:0a:40:00:57`
    /// - Sent by: servers
    #[doc(alias("ipv6"))]
    OPTION_6RD: Value = 212,
    /// The domain of the access network, for finding location servers.
    ///
    /// - Option: `v4:213` (`v4-access-domain`), RFC 5986, section 3.2
    /// - Layout: `name`
    /// - Example: `tarnfell.example`
    /// - Its octets: `08:74:61:72:6e:66:65:6c:6c:07:65:78:61:6d:70:6c:65:00`
    /// - Sent by: servers
    #[doc(alias("location"))]
    V4_ACCESS_DOMAIN: String = 213,
    /// Whole subnets for routers that hand them out.
    ///
    /// - Option: `v4:220` (`subnet-allocation`), RFC 6656, section 3
    /// - Layout: `{ flags: u8, suboptions: options(subnet-allocation)* }`
    /// - Example: `{ flags = 0, suboptions = { subnet-request = { flags = none, prefix = 24 } } }`
    /// - Its octets: `00:01:02:00:18`
    /// - Sent by: clients and servers, automatically: no plan sends it
    SUBNET_ALLOCATION: Value = 220,
    /// The VPN the client's address is in.
    ///
    /// - Option: `v4:221` (`virtual-subnet-selection`), RFC 6607, section 3.1
    /// - Layout: `{ type: u8 of vpn-kind, info: by type { 0 => text*, 1 => { oui: u24, index: u32 }, 254 => empty, 255 => empty, else => bytes* } }`
    /// - Example: `{ type = vpn-name, info = observatory }`
    /// - Its octets: `00:6f:62:73:65:72:76:61:74:6f:72:79`
    /// - Sent by: clients and servers, automatically: no plan sends it
    #[doc(alias("vpn", "vrf"))]
    VIRTUAL_SUBNET_SELECTION: Value = 221,
    /// For the site to define.
    ///
    /// - Option: `v4:224` (`site-specific-224`), RFC 3942, section 4
    /// - Layout: `bytes*`
    /// - Example: `01`
    /// - Its octets: `01`
    /// - Sent by: clients and servers
    #[doc(alias("site", "private"))]
    SITE_SPECIFIC_224: Vec<u8> = 224,
    /// For the site to define.
    ///
    /// - Option: `v4:225` (`site-specific-225`), RFC 3942, section 4
    /// - Layout: `bytes*`
    /// - Example: `01`
    /// - Its octets: `01`
    /// - Sent by: clients and servers
    #[doc(alias("site", "private"))]
    SITE_SPECIFIC_225: Vec<u8> = 225,
    /// For the site to define.
    ///
    /// - Option: `v4:226` (`site-specific-226`), RFC 3942, section 4
    /// - Layout: `bytes*`
    /// - Example: `01`
    /// - Its octets: `01`
    /// - Sent by: clients and servers
    #[doc(alias("site", "private"))]
    SITE_SPECIFIC_226: Vec<u8> = 226,
    /// For the site to define.
    ///
    /// - Option: `v4:227` (`site-specific-227`), RFC 3942, section 4
    /// - Layout: `bytes*`
    /// - Example: `01`
    /// - Its octets: `01`
    /// - Sent by: clients and servers
    #[doc(alias("site", "private"))]
    SITE_SPECIFIC_227: Vec<u8> = 227,
    /// For the site to define.
    ///
    /// - Option: `v4:228` (`site-specific-228`), RFC 3942, section 4
    /// - Layout: `bytes*`
    /// - Example: `01`
    /// - Its octets: `01`
    /// - Sent by: clients and servers
    #[doc(alias("site", "private"))]
    SITE_SPECIFIC_228: Vec<u8> = 228,
    /// For the site to define.
    ///
    /// - Option: `v4:229` (`site-specific-229`), RFC 3942, section 4
    /// - Layout: `bytes*`
    /// - Example: `01`
    /// - Its octets: `01`
    /// - Sent by: clients and servers
    #[doc(alias("site", "private"))]
    SITE_SPECIFIC_229: Vec<u8> = 229,
    /// For the site to define.
    ///
    /// - Option: `v4:230` (`site-specific-230`), RFC 3942, section 4
    /// - Layout: `bytes*`
    /// - Example: `01`
    /// - Its octets: `01`
    /// - Sent by: clients and servers
    #[doc(alias("site", "private"))]
    SITE_SPECIFIC_230: Vec<u8> = 230,
    /// For the site to define.
    ///
    /// - Option: `v4:231` (`site-specific-231`), RFC 3942, section 4
    /// - Layout: `bytes*`
    /// - Example: `01`
    /// - Its octets: `01`
    /// - Sent by: clients and servers
    #[doc(alias("site", "private"))]
    SITE_SPECIFIC_231: Vec<u8> = 231,
    /// For the site to define.
    ///
    /// - Option: `v4:232` (`site-specific-232`), RFC 3942, section 4
    /// - Layout: `bytes*`
    /// - Example: `01`
    /// - Its octets: `01`
    /// - Sent by: clients and servers
    #[doc(alias("site", "private"))]
    SITE_SPECIFIC_232: Vec<u8> = 232,
    /// For the site to define.
    ///
    /// - Option: `v4:233` (`site-specific-233`), RFC 3942, section 4
    /// - Layout: `bytes*`
    /// - Example: `01`
    /// - Its octets: `01`
    /// - Sent by: clients and servers
    #[doc(alias("site", "private"))]
    SITE_SPECIFIC_233: Vec<u8> = 233,
    /// For the site to define.
    ///
    /// - Option: `v4:234` (`site-specific-234`), RFC 3942, section 4
    /// - Layout: `bytes*`
    /// - Example: `01`
    /// - Its octets: `01`
    /// - Sent by: clients and servers
    #[doc(alias("site", "private"))]
    SITE_SPECIFIC_234: Vec<u8> = 234,
    /// For the site to define.
    ///
    /// - Option: `v4:235` (`site-specific-235`), RFC 3942, section 4
    /// - Layout: `bytes*`
    /// - Example: `01`
    /// - Its octets: `01`
    /// - Sent by: clients and servers
    #[doc(alias("site", "private"))]
    SITE_SPECIFIC_235: Vec<u8> = 235,
    /// For the site to define.
    ///
    /// - Option: `v4:236` (`site-specific-236`), RFC 3942, section 4
    /// - Layout: `bytes*`
    /// - Example: `01`
    /// - Its octets: `01`
    /// - Sent by: clients and servers
    #[doc(alias("site", "private"))]
    SITE_SPECIFIC_236: Vec<u8> = 236,
    /// For the site to define.
    ///
    /// - Option: `v4:237` (`site-specific-237`), RFC 3942, section 4
    /// - Layout: `bytes*`
    /// - Example: `01`
    /// - Its octets: `01`
    /// - Sent by: clients and servers
    #[doc(alias("site", "private"))]
    SITE_SPECIFIC_237: Vec<u8> = 237,
    /// For the site to define.
    ///
    /// - Option: `v4:238` (`site-specific-238`), RFC 3942, section 4
    /// - Layout: `bytes*`
    /// - Example: `01`
    /// - Its octets: `01`
    /// - Sent by: clients and servers
    #[doc(alias("site", "private"))]
    SITE_SPECIFIC_238: Vec<u8> = 238,
    /// For the site to define.
    ///
    /// - Option: `v4:239` (`site-specific-239`), RFC 3942, section 4
    /// - Layout: `bytes*`
    /// - Example: `01`
    /// - Its octets: `01`
    /// - Sent by: clients and servers
    #[doc(alias("site", "private"))]
    SITE_SPECIFIC_239: Vec<u8> = 239,
    /// For the site to define.
    ///
    /// - Option: `v4:240` (`site-specific-240`), RFC 3942, section 4
    /// - Layout: `bytes*`
    /// - Example: `01`
    /// - Its octets: `01`
    /// - Sent by: clients and servers
    #[doc(alias("site", "private"))]
    SITE_SPECIFIC_240: Vec<u8> = 240,
    /// For the site to define.
    ///
    /// - Option: `v4:241` (`site-specific-241`), RFC 3942, section 4
    /// - Layout: `bytes*`
    /// - Example: `01`
    /// - Its octets: `01`
    /// - Sent by: clients and servers
    #[doc(alias("site", "private"))]
    SITE_SPECIFIC_241: Vec<u8> = 241,
    /// For the site to define.
    ///
    /// - Option: `v4:242` (`site-specific-242`), RFC 3942, section 4
    /// - Layout: `bytes*`
    /// - Example: `01`
    /// - Its octets: `01`
    /// - Sent by: clients and servers
    #[doc(alias("site", "private"))]
    SITE_SPECIFIC_242: Vec<u8> = 242,
    /// For the site to define.
    ///
    /// - Option: `v4:243` (`site-specific-243`), RFC 3942, section 4
    /// - Layout: `bytes*`
    /// - Example: `01`
    /// - Its octets: `01`
    /// - Sent by: clients and servers
    #[doc(alias("site", "private"))]
    SITE_SPECIFIC_243: Vec<u8> = 243,
    /// For the site to define.
    ///
    /// - Option: `v4:244` (`site-specific-244`), RFC 3942, section 4
    /// - Layout: `bytes*`
    /// - Example: `01`
    /// - Its octets: `01`
    /// - Sent by: clients and servers
    #[doc(alias("site", "private"))]
    SITE_SPECIFIC_244: Vec<u8> = 244,
    /// For the site to define.
    ///
    /// - Option: `v4:245` (`site-specific-245`), RFC 3942, section 4
    /// - Layout: `bytes*`
    /// - Example: `01`
    /// - Its octets: `01`
    /// - Sent by: clients and servers
    #[doc(alias("site", "private"))]
    SITE_SPECIFIC_245: Vec<u8> = 245,
    /// For the site to define.
    ///
    /// - Option: `v4:246` (`site-specific-246`), RFC 3942, section 4
    /// - Layout: `bytes*`
    /// - Example: `01`
    /// - Its octets: `01`
    /// - Sent by: clients and servers
    #[doc(alias("site", "private"))]
    SITE_SPECIFIC_246: Vec<u8> = 246,
    /// For the site to define.
    ///
    /// - Option: `v4:247` (`site-specific-247`), RFC 3942, section 4
    /// - Layout: `bytes*`
    /// - Example: `01`
    /// - Its octets: `01`
    /// - Sent by: clients and servers
    #[doc(alias("site", "private"))]
    SITE_SPECIFIC_247: Vec<u8> = 247,
    /// For the site to define.
    ///
    /// - Option: `v4:248` (`site-specific-248`), RFC 3942, section 4
    /// - Layout: `bytes*`
    /// - Example: `01`
    /// - Its octets: `01`
    /// - Sent by: clients and servers
    #[doc(alias("site", "private"))]
    SITE_SPECIFIC_248: Vec<u8> = 248,
    /// For the site to define.
    ///
    /// - Option: `v4:249` (`site-specific-249`), RFC 3942, section 4
    /// - Layout: `bytes*`
    /// - Example: `01`
    /// - Its octets: `01`
    /// - Sent by: clients and servers
    #[doc(alias("site", "private"))]
    SITE_SPECIFIC_249: Vec<u8> = 249,
    /// For the site to define.
    ///
    /// - Option: `v4:250` (`site-specific-250`), RFC 3942, section 4
    /// - Layout: `bytes*`
    /// - Example: `01`
    /// - Its octets: `01`
    /// - Sent by: clients and servers
    #[doc(alias("site", "private"))]
    SITE_SPECIFIC_250: Vec<u8> = 250,
    /// For the site to define.
    ///
    /// - Option: `v4:251` (`site-specific-251`), RFC 3942, section 4
    /// - Layout: `bytes*`
    /// - Example: `01`
    /// - Its octets: `01`
    /// - Sent by: clients and servers
    #[doc(alias("site", "private"))]
    SITE_SPECIFIC_251: Vec<u8> = 251,
    /// For the site to define.
    ///
    /// - Option: `v4:252` (`site-specific-252`), RFC 3942, section 4
    /// - Layout: `bytes*`
    /// - Example: `01`
    /// - Its octets: `01`
    /// - Sent by: clients and servers
    #[doc(alias("site", "private"))]
    SITE_SPECIFIC_252: Vec<u8> = 252,
    /// For the site to define.
    ///
    /// - Option: `v4:253` (`site-specific-253`), RFC 3942, section 4
    /// - Layout: `bytes*`
    /// - Example: `01`
    /// - Its octets: `01`
    /// - Sent by: clients and servers
    #[doc(alias("site", "private"))]
    SITE_SPECIFIC_253: Vec<u8> = 253,
    /// For the site to define.
    ///
    /// - Option: `v4:254` (`site-specific-254`), RFC 3942, section 4
    /// - Layout: `bytes*`
    /// - Example: `01`
    /// - Its octets: `01`
    /// - Sent by: clients and servers
    #[doc(alias("site", "private"))]
    SITE_SPECIFIC_254: Vec<u8> = 254,
}
