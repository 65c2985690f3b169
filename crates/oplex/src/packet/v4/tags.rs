//! Generated from `codebooks/dhcpv4.toml`: do not edit. `GENERATE=1 cargo test -p oplex constants` writes it anew.

use std::net::{Ipv4Addr, Ipv6Addr};
use std::time::Duration;

use super::Tag;
use crate::layout::{Route4, Value};

/// `v4:1` (RFC 2132, section 3.3): The subnet's mask; it stands before router when both are sent.
pub const SUBNET_MASK: Tag<Ipv4Addr> = Tag::new(1);

/// `v4:2` (RFC 2132, section 3.4): Seconds east (positive) or west of UTC.
pub const TIME_OFFSET: Tag<i32> = Tag::new(2);

/// `v4:3` (RFC 2132, section 3.5): Routers on the client's subnet, best first.
pub const ROUTER: Tag<Vec<Ipv4Addr>> = Tag::new(3);

/// `v4:4` (RFC 2132, section 3.6): Time servers of the old Time protocol (RFC 868), not NTP.
pub const TIME_SERVER: Tag<Vec<Ipv4Addr>> = Tag::new(4);

/// `v4:5` (RFC 2132, section 3.7): Name servers of IEN 116, not DNS.
pub const NAME_SERVER: Tag<Vec<Ipv4Addr>> = Tag::new(5);

/// `v4:6` (RFC 2132, section 3.8): DNS servers, best first.
pub const DOMAIN_SERVER: Tag<Vec<Ipv4Addr>> = Tag::new(6);

/// `v4:7` (RFC 2132, section 3.9): MIT-LCS UDP log servers, best first.
pub const LOG_SERVER: Tag<Vec<Ipv4Addr>> = Tag::new(7);

/// `v4:8` (RFC 2132, section 3.10): Quote-of-the-day servers.
pub const QUOTES_SERVER: Tag<Vec<Ipv4Addr>> = Tag::new(8);

/// `v4:9` (RFC 2132, section 3.11): Line printer servers, best first.
pub const LPR_SERVER: Tag<Vec<Ipv4Addr>> = Tag::new(9);

/// `v4:10` (RFC 2132, section 3.12): Imagen Impress servers, best first.
pub const IMPRESS_SERVER: Tag<Vec<Ipv4Addr>> = Tag::new(10);

/// `v4:11` (RFC 2132, section 3.13): Resource location servers (RFC 887).
pub const RLP_SERVER: Tag<Vec<Ipv4Addr>> = Tag::new(11);

/// `v4:12` (RFC 2132, section 3.14): The client's own name, with or without its domain.
pub const HOSTNAME: Tag<String> = Tag::new(12);

/// `v4:13` (RFC 2132, section 3.15): Size of the boot file in blocks of 512 octets.
pub const BOOT_FILE_SIZE: Tag<u16> = Tag::new(13);

/// `v4:14` (RFC 2132, section 3.16): Path of the file a crash dump goes to.
pub const MERIT_DUMP_FILE: Tag<String> = Tag::new(14);

/// `v4:15` (RFC 2132, section 3.17): The domain the client completes short names with.
pub const DOMAIN_NAME: Tag<String> = Tag::new(15);

/// `v4:16` (RFC 2132, section 3.18): The swap server.
pub const SWAP_SERVER: Tag<Ipv4Addr> = Tag::new(16);

/// `v4:17` (RFC 2132, section 3.19): Path of the client's root file system.
pub const ROOT_PATH: Tag<String> = Tag::new(17);

/// `v4:18` (RFC 2132, section 3.20): File, fetched by TFTP, with more options in it.
pub const EXTENSION_FILE: Tag<String> = Tag::new(18);

/// `v4:19` (RFC 2132, section 4.1): Whether the client forwards IP datagrams.
pub const FORWARD_ON_OFF: Tag<bool> = Tag::new(19);

/// `v4:20` (RFC 2132, section 4.2): Whether the client forwards datagrams with non-local source routes.
pub const SRCRTE_ON_OFF: Tag<bool> = Tag::new(20);

/// `v4:21` (RFC 2132, section 4.3): Destinations allowed in incoming source routes.
pub const POLICY_FILTER: Tag<Value> = Tag::new(21);

/// `v4:22` (RFC 2132, section 4.4): Largest datagram the client should be ready to reassemble.
pub const MAX_DG_ASSEMBLY: Tag<u16> = Tag::new(22);

/// `v4:23` (RFC 2132, section 4.5): Time to live of outgoing datagrams.
pub const DEFAULT_IP_TTL: Tag<u8> = Tag::new(23);

/// `v4:24` (RFC 2132, section 4.6): Seconds after which a discovered path MTU is forgotten.
pub const MTU_TIMEOUT: Tag<u32> = Tag::new(24);

/// `v4:25` (RFC 2132, section 4.7): Sizes to try in path MTU discovery, smallest first.
pub const MTU_PLATEAU: Tag<Vec<u16>> = Tag::new(25);

/// `v4:26` (RFC 2132, section 5.1): The MTU of this interface.
pub const MTU_INTERFACE: Tag<u16> = Tag::new(26);

/// `v4:27` (RFC 2132, section 5.2): Whether all subnets of the network have the same MTU.
pub const MTU_SUBNET: Tag<bool> = Tag::new(27);

/// `v4:28` (RFC 2132, section 5.3): The subnet's broadcast address.
pub const BROADCAST_ADDRESS: Tag<Ipv4Addr> = Tag::new(28);

/// `v4:29` (RFC 2132, section 5.4): Whether the client asks for its mask by ICMP.
pub const MASK_DISCOVERY: Tag<bool> = Tag::new(29);

/// `v4:30` (RFC 2132, section 5.5): Whether the client answers for masks by ICMP.
pub const MASK_SUPPLIER: Tag<bool> = Tag::new(30);

/// `v4:31` (RFC 2132, section 5.6): Whether the client looks for routers by ICMP (RFC 1256).
pub const ROUTER_DISCOVERY: Tag<bool> = Tag::new(31);

/// `v4:32` (RFC 2132, section 5.7): Where router solicitations go.
pub const ROUTER_REQUEST: Tag<Ipv4Addr> = Tag::new(32);

/// `v4:33` (RFC 2132, section 5.8): Routes whose masks follow from address classes; classless-static-route replaces it.
pub const STATIC_ROUTE: Tag<Value> = Tag::new(33);

/// `v4:34` (RFC 2132, section 6.1): Whether the client uses trailers (RFC 893).
pub const TRAILERS: Tag<bool> = Tag::new(34);

/// `v4:35` (RFC 2132, section 6.2): Seconds an ARP entry is kept.
pub const ARP_TIMEOUT: Tag<u32> = Tag::new(35);

/// `v4:36` (RFC 2132, section 6.3): Ethernet framing: RFC 894 or RFC 1042.
pub const ETHERNET: Tag<u8> = Tag::new(36);

/// `v4:37` (RFC 2132, section 7.1): Time to live of outgoing TCP segments.
pub const DEFAULT_TCP_TTL: Tag<u8> = Tag::new(37);

/// `v4:38` (RFC 2132, section 7.2): Seconds between TCP keepalives; 0 sends none unasked.
pub const KEEPALIVE_TIME: Tag<u32> = Tag::new(38);

/// `v4:39` (RFC 2132, section 7.3): Whether TCP keepalives carry an octet of garbage.
pub const KEEPALIVE_DATA: Tag<bool> = Tag::new(39);

/// `v4:40` (RFC 2132, section 8.1): The NIS domain.
pub const NIS_DOMAIN: Tag<String> = Tag::new(40);

/// `v4:41` (RFC 2132, section 8.2): NIS servers, best first.
pub const NIS_SERVERS: Tag<Vec<Ipv4Addr>> = Tag::new(41);

/// `v4:42` (RFC 2132, section 8.3): NTP servers, best first.
pub const NTP_SERVERS: Tag<Vec<Ipv4Addr>> = Tag::new(42);

/// `v4:43` (RFC 2132, section 8.4): A vendor's own sub-options; the vendor is the one of class-id.
pub const VENDOR_SPECIFIC: Tag<Vec<u8>> = Tag::new(43);

/// `v4:44` (RFC 2132, section 8.5): NetBIOS name servers, best first.
pub const NETBIOS_NAME_SRV: Tag<Vec<Ipv4Addr>> = Tag::new(44);

/// `v4:45` (RFC 2132, section 8.6): NetBIOS datagram distribution servers, best first.
pub const NETBIOS_DIST_SRV: Tag<Vec<Ipv4Addr>> = Tag::new(45);

/// `v4:46` (RFC 2132, section 8.7): How the client resolves NetBIOS names.
pub const NETBIOS_NODE_TYPE: Tag<u8> = Tag::new(46);

/// `v4:47` (RFC 2132, section 8.8): The NetBIOS scope.
pub const NETBIOS_SCOPE: Tag<String> = Tag::new(47);

/// `v4:48` (RFC 2132, section 8.9): X font servers, best first.
pub const X_WINDOW_FONT: Tag<Vec<Ipv4Addr>> = Tag::new(48);

/// `v4:49` (RFC 2132, section 8.10): X display managers, best first.
pub const X_WINDOW_MANAGER: Tag<Vec<Ipv4Addr>> = Tag::new(49);

/// `v4:50` (RFC 2132, section 9.1): The address the client asks for.
pub const ADDRESS_REQUEST: Tag<Ipv4Addr> = Tag::new(50);

/// `v4:51` (RFC 2132, section 9.2): How long the lease lasts.
pub const ADDRESS_TIME: Tag<Duration> = Tag::new(51);

/// `v4:52` (RFC 2132, section 9.3): Which header fields hold options too.
pub const OVERLOAD: Tag<u8> = Tag::new(52);

/// `v4:53` (RFC 2132, section 9.6): What the message is.
pub const DHCP_MSG_TYPE: Tag<u8> = Tag::new(53);

/// `v4:54` (RFC 2132, section 9.7): The server that speaks, or that is meant.
pub const DHCP_SERVER_ID: Tag<Ipv4Addr> = Tag::new(54);

/// `v4:55` (RFC 2132, section 9.8): Codes of the options the client asks for, in its order of preference.
pub const PARAMETER_LIST: Tag<Vec<u8>> = Tag::new(55);

/// `v4:56` (RFC 2132, section 9.9): A message for people, in refusals.
pub const DHCP_MESSAGE: Tag<String> = Tag::new(56);

/// `v4:57` (RFC 2132, section 9.10): Longest message the client takes, with IP and UDP headers.
pub const DHCP_MAX_MSG_SIZE: Tag<u16> = Tag::new(57);

/// `v4:58` (RFC 2132, section 9.11): When the client starts to renew (T1).
pub const RENEWAL_TIME: Tag<Duration> = Tag::new(58);

/// `v4:59` (RFC 2132, section 9.12): When the client starts to rebind (T2).
pub const REBINDING_TIME: Tag<Duration> = Tag::new(59);

/// `v4:60` (RFC 2132, section 9.13): What kind of device the client is, in its vendor's words.
pub const CLASS_ID: Tag<Vec<u8>> = Tag::new(60);

/// `v4:61` (RFC 2132, section 9.14): Who the client is, apart from its hardware address.
pub const CLIENT_ID: Tag<Value> = Tag::new(61);

/// `v4:62` (RFC 2242, section 2): The NetWare/IP domain.
pub const NETWARE_IP_DOMAIN: Tag<String> = Tag::new(62);

/// `v4:63` (RFC 2242, section 3): NetWare/IP settings.
pub const NETWARE_IP_OPTION: Tag<Value> = Tag::new(63);

/// `v4:64` (RFC 2132, section 8.11): The NIS+ domain.
pub const NIS_DOMAIN_NAME: Tag<String> = Tag::new(64);

/// `v4:65` (RFC 2132, section 8.12): NIS+ servers, best first.
pub const NIS_SERVER_ADDR: Tag<Vec<Ipv4Addr>> = Tag::new(65);

/// `v4:66` (RFC 2132, section 9.4): Name of the TFTP server, when sname carries options.
pub const SERVER_NAME: Tag<String> = Tag::new(66);

/// `v4:67` (RFC 2132, section 9.5): Name of the boot file, when file carries options.
pub const BOOTFILE_NAME: Tag<String> = Tag::new(67);

/// `v4:68` (RFC 2132, section 8.13): Mobile IP home agents, best first; none says there is none.
pub const HOME_AGENT_ADDRS: Tag<Vec<Ipv4Addr>> = Tag::new(68);

/// `v4:69` (RFC 2132, section 8.14): Mail (SMTP) servers, best first.
pub const SMTP_SERVER: Tag<Vec<Ipv4Addr>> = Tag::new(69);

/// `v4:70` (RFC 2132, section 8.15): Mail (POP3) servers, best first.
pub const POP3_SERVER: Tag<Vec<Ipv4Addr>> = Tag::new(70);

/// `v4:71` (RFC 2132, section 8.16): News (NNTP) servers, best first.
pub const NNTP_SERVER: Tag<Vec<Ipv4Addr>> = Tag::new(71);

/// `v4:72` (RFC 2132, section 8.17): Default web servers, best first.
pub const WWW_SERVER: Tag<Vec<Ipv4Addr>> = Tag::new(72);

/// `v4:73` (RFC 2132, section 8.18): Finger servers, best first.
pub const FINGER_SERVER: Tag<Vec<Ipv4Addr>> = Tag::new(73);

/// `v4:74` (RFC 2132, section 8.19): Chat (IRC) servers, best first.
pub const IRC_SERVER: Tag<Vec<Ipv4Addr>> = Tag::new(74);

/// `v4:75` (RFC 2132, section 8.20): StreetTalk servers, best first.
pub const STREETTALK_SERVER: Tag<Vec<Ipv4Addr>> = Tag::new(75);

/// `v4:76` (RFC 2132, section 8.21): StreetTalk directory assistance servers, best first.
pub const STDA_SERVER: Tag<Vec<Ipv4Addr>> = Tag::new(76);

/// `v4:77` (RFC 3004, section 4): Classes the client's user or site has put it in.
pub const USER_CLASS: Tag<Value> = Tag::new(77);

/// `v4:78` (RFC 2610, section 3): Service Location directory agents, best first.
pub const DIRECTORY_AGENT: Tag<Value> = Tag::new(78);

/// `v4:79` (RFC 2610, section 4): Service Location scopes, separated by commas.
pub const SERVICE_SCOPE: Tag<Value> = Tag::new(79);

/// `v4:80` (RFC 4039, section 4): Two messages instead of four.
pub const RAPID_COMMIT: Tag<Value> = Tag::new(80);

/// `v4:81` (RFC 4702, section 2): The client's full name, and who updates DNS.
pub const CLIENT_FQDN: Tag<Value> = Tag::new(81);

/// `v4:82` (RFC 3046, section 2.0): What a relay agent knows about where the client is attached.
pub const RELAY_AGENT_INFORMATION: Tag<Value> = Tag::new(82);

/// `v4:83` (RFC 4174, section 2): Internet storage name servers and how to use them.
pub const ISNS: Tag<Value> = Tag::new(83);

/// `v4:84` (RFC 3679, section 2.2): Once the relay agent option in a draft.
pub const REMOVED_84: Tag<Vec<u8>> = Tag::new(84);

/// `v4:85` (RFC 2241, section 2): NDS servers, best first.
pub const NDS_SERVERS: Tag<Vec<Ipv4Addr>> = Tag::new(85);

/// `v4:86` (RFC 2241, section 3): The NDS tree.
pub const NDS_TREE_NAME: Tag<String> = Tag::new(86);

/// `v4:87` (RFC 2241, section 4): The NDS context.
pub const NDS_CONTEXT: Tag<String> = Tag::new(87);

/// `v4:88` (RFC 4280, section 4.1): Broadcast and multicast service controllers, by name.
pub const BCMCS_CONTROLLER_DOMAIN_NAME_LIST: Tag<Vec<String>> = Tag::new(88);

/// `v4:89` (RFC 4280, section 4.3): Broadcast and multicast service controllers, by address.
pub const BCMCS_CONTROLLER_IPV4_ADDRESS: Tag<Vec<Ipv4Addr>> = Tag::new(89);

/// `v4:90` (RFC 3118, section 2): Proof of who sent the message.
pub const AUTHENTICATION: Tag<Value> = Tag::new(90);

/// `v4:91` (RFC 4388, section 6.1): Seconds since the client last spoke, in lease queries.
pub const CLIENT_LAST_TRANSACTION_TIME: Tag<u32> = Tag::new(91);

/// `v4:92` (RFC 4388, section 6.1): All addresses of one client, in lease queries.
pub const ASSOCIATED_IP: Tag<Vec<Ipv4Addr>> = Tag::new(92);

/// `v4:93` (RFC 4578, section 2.1): What machine is booting, and how.
pub const CLIENT_SYSTEM: Tag<Vec<u16>> = Tag::new(93);

/// `v4:94` (RFC 4578, section 2.2): The network boot interface of the machine.
pub const CLIENT_NDI: Tag<Value> = Tag::new(94);

/// `v4:95` (RFC 3679, section 3.2.1): Never published; treated as octets.
pub const LDAP: Tag<Vec<u8>> = Tag::new(95);

/// `v4:96` (RFC 3679, section 2.7): Once IPv6 transition in a draft.
pub const REMOVED_96: Tag<Vec<u8>> = Tag::new(96);

/// `v4:97` (RFC 4578, section 2.3): The machine's unique identifier.
pub const UUID_GUID: Tag<Value> = Tag::new(97);

/// `v4:98` (RFC 2485, "User Authentication Protocol Option"): Where users prove who they are: URLs separated by spaces.
pub const USER_AUTH: Tag<String> = Tag::new(98);

/// `v4:99` (RFC 4776, section 3.1): Where the client is, as a postal address.
pub const GEOCONF_CIVIC: Tag<Value> = Tag::new(99);

/// `v4:100` (RFC 4833, section 2): Time zone as a POSIX TZ text.
pub const PCODE: Tag<String> = Tag::new(100);

/// `v4:101` (RFC 4833, section 2): Time zone as a name of the TZ database.
pub const TCODE: Tag<String> = Tag::new(101);

/// `v4:102` (RFC 3679, section 4): Not assigned.
pub const REMOVED_102: Tag<Vec<u8>> = Tag::new(102);

/// `v4:103` (RFC 3679, section 4): Not assigned.
pub const REMOVED_103: Tag<Vec<u8>> = Tag::new(103);

/// `v4:104` (RFC 3679, section 4): Not assigned.
pub const REMOVED_104: Tag<Vec<u8>> = Tag::new(104);

/// `v4:105` (RFC 3679, section 4): Not assigned.
pub const REMOVED_105: Tag<Vec<u8>> = Tag::new(105);

/// `v4:106` (RFC 3679, section 4): Not assigned.
pub const REMOVED_106: Tag<Vec<u8>> = Tag::new(106);

/// `v4:107` (RFC 3679, section 4): Not assigned.
pub const REMOVED_107: Tag<Vec<u8>> = Tag::new(107);

/// `v4:108` (RFC 8925, section 3.1): The client may do without IPv4, for this many seconds.
pub const IPV6_ONLY_PREFERRED: Tag<u32> = Tag::new(108);

/// `v4:109` (RFC 8539, section 6.2): The softwire source address of DHCPv4 over DHCPv6.
pub const DHCP4O6_S46_SADDR: Tag<Ipv6Addr> = Tag::new(109);

/// `v4:110` (RFC 3679, section 2.11): Once IPX compatibility in a draft.
pub const REMOVED_110: Tag<Vec<u8>> = Tag::new(110);

/// `v4:111` (RFC 3679, section 4): Never assigned.
pub const UNASSIGNED_111: Tag<Vec<u8>> = Tag::new(111);

/// `v4:112` (RFC 3679, section 3.2.2): Never published; treated as octets.
pub const NETINFO_ADDRESS: Tag<Vec<u8>> = Tag::new(112);

/// `v4:113` (RFC 3679, section 3.2.2): Never published; treated as octets.
pub const NETINFO_TAG: Tag<Vec<u8>> = Tag::new(113);

/// `v4:114` (RFC 8910, section 2.1): Where the captive portal's API is.
pub const DHCP_CAPTIVE_PORTAL: Tag<String> = Tag::new(114);

/// `v4:115` (RFC 3679, section 2.12): Once failover in a draft.
pub const REMOVED_115: Tag<Vec<u8>> = Tag::new(115);

/// `v4:116` (RFC 2563, section 2): Whether the client may give itself a link-local address.
pub const AUTO_CONFIG: Tag<u8> = Tag::new(116);

/// `v4:117` (RFC 2937, "Name Service Search Option Format"): Order in which the client asks its name services.
pub const NAME_SERVICE_SEARCH: Tag<Vec<u16>> = Tag::new(117);

/// `v4:118` (RFC 3011, section 2): The subnet the client should get an address on.
pub const SUBNET_SELECTION: Tag<Ipv4Addr> = Tag::new(118);

/// `v4:119` (RFC 3397, section 2): Domains the client tries for short names, in order.
pub const DOMAIN_SEARCH: Tag<Vec<String>> = Tag::new(119);

/// `v4:120` (RFC 3361, section 3): SIP servers, as names or as addresses.
pub const SIP_SERVERS: Tag<Value> = Tag::new(120);

/// `v4:121` (RFC 3442, "Classless Route Option Format"): Routes with prefix lengths; clients that read it ignore router and static-route.
pub const CLASSLESS_STATIC_ROUTE: Tag<Vec<Route4>> = Tag::new(121);

/// `v4:122` (RFC 3495, section 4): Settings of cable telephony devices.
pub const CCC: Tag<Value> = Tag::new(122);

/// `v4:123` (RFC 6225, section 2.2.1): Where the client is, as coordinates with their resolution.
pub const GEOCONF: Tag<Value> = Tag::new(123);

/// `v4:124` (RFC 3925, section 3): What kind of device the client is, by enterprise number.
pub const V_I_VENDOR_CLASS: Tag<Value> = Tag::new(124);

/// `v4:125` (RFC 3925, section 4): A vendor's own sub-options, by enterprise number.
pub const V_I_VENDOR_SPECIFIC_INFORMATION: Tag<Value> = Tag::new(125);

/// `v4:126` (RFC 3679, section 3.3): Once held for option code extensions.
pub const REMOVED_126: Tag<Vec<u8>> = Tag::new(126);

/// `v4:127` (RFC 3679, section 3.3): Once held for option code extensions.
pub const REMOVED_127: Tag<Vec<u8>> = Tag::new(127);

/// `v4:128` (RFC 4578, section 2.4): For boot programs; never defined.
pub const PXE_UNDEFINED_128: Tag<Vec<u8>> = Tag::new(128);

/// `v4:129` (RFC 4578, section 2.4): For boot programs; never defined.
pub const PXE_UNDEFINED_129: Tag<Vec<u8>> = Tag::new(129);

/// `v4:130` (RFC 4578, section 2.4): For boot programs; never defined.
pub const PXE_UNDEFINED_130: Tag<Vec<u8>> = Tag::new(130);

/// `v4:131` (RFC 4578, section 2.4): For boot programs; never defined.
pub const PXE_UNDEFINED_131: Tag<Vec<u8>> = Tag::new(131);

/// `v4:132` (RFC 4578, section 2.4): For boot programs; never defined.
pub const PXE_UNDEFINED_132: Tag<Vec<u8>> = Tag::new(132);

/// `v4:133` (RFC 4578, section 2.4): For boot programs; never defined.
pub const PXE_UNDEFINED_133: Tag<Vec<u8>> = Tag::new(133);

/// `v4:134` (RFC 4578, section 2.4): For boot programs; never defined.
pub const PXE_UNDEFINED_134: Tag<Vec<u8>> = Tag::new(134);

/// `v4:135` (RFC 4578, section 2.4): For boot programs; never defined.
pub const PXE_UNDEFINED_135: Tag<Vec<u8>> = Tag::new(135);

/// `v4:136` (RFC 5192, section 4): PANA authentication agents, best first.
pub const PANA_AGENT: Tag<Vec<Ipv4Addr>> = Tag::new(136);

/// `v4:137` (RFC 5223, section 4): The server that maps places to emergency services.
pub const V4_LOST: Tag<String> = Tag::new(137);

/// `v4:138` (RFC 5417, section 2): Controllers that access points report to, best first.
pub const CAPWAP_AC_V4: Tag<Vec<Ipv4Addr>> = Tag::new(138);

/// `v4:139` (RFC 5678, section 2): Mobility servers, by address.
pub const IPV4_ADDRESS_MOS: Tag<Value> = Tag::new(139);

/// `v4:140` (RFC 5678, section 3): Mobility servers, by name.
pub const IPV4_FQDN_MOS: Tag<Value> = Tag::new(140);

/// `v4:141` (RFC 6011, section 4.1): Domains to look for SIP user agent configuration in.
pub const SIP_UA_CONFIGURATION_SERVICE_DOMAINS: Tag<Vec<String>> = Tag::new(141);

/// `v4:142` (RFC 6153, section 2): Access network discovery servers, best first.
pub const IPV4_ADDRESS_ANDSF: Tag<Vec<Ipv4Addr>> = Tag::new(142);

/// `v4:143` (RFC 8572, section 8.1): Where a device learns about its bootstrap servers.
pub const V4_SZTP_REDIRECT: Tag<Value> = Tag::new(143);

/// `v4:144` (RFC 6225, section 2.2.2): Where the client is, as coordinates with their uncertainty.
pub const GEOLOC: Tag<Value> = Tag::new(144);

/// `v4:145` (RFC 6704, section 3.1.1): Ways the client can check a forced renewal.
pub const FORCERENEW_NONCE_CAPABLE: Tag<Vec<u8>> = Tag::new(145);

/// `v4:146` (RFC 6731, section 4.3): DNS servers for some domains only.
pub const RDNSS_SELECTION: Tag<Value> = Tag::new(146);

/// `v4:147` (RFC 8973, section 5.2.1): Name of the server that hears about attacks (DOTS).
pub const V4_DOTS_RI: Tag<String> = Tag::new(147);

/// `v4:148` (RFC 8973, section 5.2.2): Addresses of the server that hears about attacks (DOTS).
pub const V4_DOTS_ADDRESS: Tag<Vec<Ipv4Addr>> = Tag::new(148);

/// `v4:149` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_149: Tag<Vec<u8>> = Tag::new(149);

/// `v4:150` (RFC 5859, section 3): TFTP servers, best first; preferred over server-name.
pub const TFTP_SERVER_ADDRESS: Tag<Vec<Ipv4Addr>> = Tag::new(150);

/// `v4:151` (RFC 6926, section 6.2.2): How a lease query went.
pub const STATUS_CODE: Tag<Value> = Tag::new(151);

/// `v4:152` (RFC 6926, section 6.2.3): The server's time, which other times of a lease query count from.
pub const BASE_TIME: Tag<u32> = Tag::new(152);

/// `v4:153` (RFC 6926, section 6.2.4): Seconds since the lease came to its state.
pub const START_TIME_OF_STATE: Tag<u32> = Tag::new(153);

/// `v4:154` (RFC 6926, section 6.2.5): Start of the time a lease query is about.
pub const QUERY_START_TIME: Tag<u32> = Tag::new(154);

/// `v4:155` (RFC 6926, section 6.2.6): End of the time a lease query is about.
pub const QUERY_END_TIME: Tag<u32> = Tag::new(155);

/// `v4:156` (RFC 6926, section 6.2.7): The state of a lease.
pub const DHCP_STATE: Tag<u8> = Tag::new(156);

/// `v4:157` (RFC 6926, section 6.2.8): Whether the answer comes from another server's data.
pub const DATA_SOURCE: Tag<u8> = Tag::new(157);

/// `v4:158` (RFC 7291, section 4.1): Port control servers: a list of addresses for each.
pub const V4_PCP_SERVER: Tag<Value> = Tag::new(158);

/// `v4:159` (RFC 7618, section 9): The ports that go with a shared address.
pub const V4_PORTPARAMS: Tag<Value> = Tag::new(159);

/// `v4:160` (RFC 7710, section 4.2): Withdrawn; some phones still read a captive portal URI here.
pub const UNASSIGNED_160: Tag<Vec<u8>> = Tag::new(160);

/// `v4:161` (RFC 8520, section 10): Where the device's description of its own traffic is.
pub const MUD_URL_V4: Tag<String> = Tag::new(161);

/// `v4:162` (RFC 9463, section 5.1): DNS servers that are reached encrypted.
pub const V4_DNR: Tag<Value> = Tag::new(162);

/// `v4:163` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_163: Tag<Vec<u8>> = Tag::new(163);

/// `v4:164` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_164: Tag<Vec<u8>> = Tag::new(164);

/// `v4:165` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_165: Tag<Vec<u8>> = Tag::new(165);

/// `v4:166` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_166: Tag<Vec<u8>> = Tag::new(166);

/// `v4:167` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_167: Tag<Vec<u8>> = Tag::new(167);

/// `v4:168` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_168: Tag<Vec<u8>> = Tag::new(168);

/// `v4:169` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_169: Tag<Vec<u8>> = Tag::new(169);

/// `v4:170` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_170: Tag<Vec<u8>> = Tag::new(170);

/// `v4:171` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_171: Tag<Vec<u8>> = Tag::new(171);

/// `v4:172` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_172: Tag<Vec<u8>> = Tag::new(172);

/// `v4:173` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_173: Tag<Vec<u8>> = Tag::new(173);

/// `v4:174` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_174: Tag<Vec<u8>> = Tag::new(174);

/// `v4:175` (RFC 3942, section 4): Tentatively assigned once and never documented; treated as octets.
pub const TENTATIVE_175: Tag<Vec<u8>> = Tag::new(175);

/// `v4:176` (RFC 3942, section 4): Tentatively assigned once and never documented; treated as octets.
pub const TENTATIVE_176: Tag<Vec<u8>> = Tag::new(176);

/// `v4:177` (RFC 3942, section 4): Tentatively assigned once and never documented; treated as octets.
pub const TENTATIVE_177: Tag<Vec<u8>> = Tag::new(177);

/// `v4:178` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_178: Tag<Vec<u8>> = Tag::new(178);

/// `v4:179` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_179: Tag<Vec<u8>> = Tag::new(179);

/// `v4:180` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_180: Tag<Vec<u8>> = Tag::new(180);

/// `v4:181` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_181: Tag<Vec<u8>> = Tag::new(181);

/// `v4:182` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_182: Tag<Vec<u8>> = Tag::new(182);

/// `v4:183` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_183: Tag<Vec<u8>> = Tag::new(183);

/// `v4:184` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_184: Tag<Vec<u8>> = Tag::new(184);

/// `v4:185` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_185: Tag<Vec<u8>> = Tag::new(185);

/// `v4:186` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_186: Tag<Vec<u8>> = Tag::new(186);

/// `v4:187` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_187: Tag<Vec<u8>> = Tag::new(187);

/// `v4:188` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_188: Tag<Vec<u8>> = Tag::new(188);

/// `v4:189` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_189: Tag<Vec<u8>> = Tag::new(189);

/// `v4:190` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_190: Tag<Vec<u8>> = Tag::new(190);

/// `v4:191` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_191: Tag<Vec<u8>> = Tag::new(191);

/// `v4:192` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_192: Tag<Vec<u8>> = Tag::new(192);

/// `v4:193` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_193: Tag<Vec<u8>> = Tag::new(193);

/// `v4:194` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_194: Tag<Vec<u8>> = Tag::new(194);

/// `v4:195` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_195: Tag<Vec<u8>> = Tag::new(195);

/// `v4:196` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_196: Tag<Vec<u8>> = Tag::new(196);

/// `v4:197` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_197: Tag<Vec<u8>> = Tag::new(197);

/// `v4:198` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_198: Tag<Vec<u8>> = Tag::new(198);

/// `v4:199` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_199: Tag<Vec<u8>> = Tag::new(199);

/// `v4:200` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_200: Tag<Vec<u8>> = Tag::new(200);

/// `v4:201` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_201: Tag<Vec<u8>> = Tag::new(201);

/// `v4:202` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_202: Tag<Vec<u8>> = Tag::new(202);

/// `v4:203` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_203: Tag<Vec<u8>> = Tag::new(203);

/// `v4:204` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_204: Tag<Vec<u8>> = Tag::new(204);

/// `v4:205` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_205: Tag<Vec<u8>> = Tag::new(205);

/// `v4:206` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_206: Tag<Vec<u8>> = Tag::new(206);

/// `v4:207` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_207: Tag<Vec<u8>> = Tag::new(207);

/// `v4:208` (RFC 5071, section 3.2): Told a boot loader that options 209 to 211 are for it.
pub const PXELINUX_MAGIC: Tag<Vec<u8>> = Tag::new(208);

/// `v4:209` (RFC 5071, section 4.2): The boot loader's configuration file.
pub const CONFIGURATION_FILE: Tag<String> = Tag::new(209);

/// `v4:210` (RFC 5071, section 5.2): What the boot loader puts before file names.
pub const PATH_PREFIX: Tag<String> = Tag::new(210);

/// `v4:211` (RFC 5071, section 6.2): Seconds after which a boot loader that found no server starts again; 0 never.
pub const REBOOT_TIME: Tag<u32> = Tag::new(211);

/// `v4:212` (RFC 5969, section 7.1.1): The 6rd domain: how IPv6 addresses follow from IPv4 ones.
pub const OPTION_6RD: Tag<Value> = Tag::new(212);

/// `v4:213` (RFC 5986, section 3.2): The domain of the access network, for finding location servers.
pub const V4_ACCESS_DOMAIN: Tag<String> = Tag::new(213);

/// `v4:214` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_214: Tag<Vec<u8>> = Tag::new(214);

/// `v4:215` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_215: Tag<Vec<u8>> = Tag::new(215);

/// `v4:216` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_216: Tag<Vec<u8>> = Tag::new(216);

/// `v4:217` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_217: Tag<Vec<u8>> = Tag::new(217);

/// `v4:218` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_218: Tag<Vec<u8>> = Tag::new(218);

/// `v4:219` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_219: Tag<Vec<u8>> = Tag::new(219);

/// `v4:220` (RFC 6656, section 3): Whole subnets for routers that hand them out.
pub const SUBNET_ALLOCATION: Tag<Value> = Tag::new(220);

/// `v4:221` (RFC 6607, section 3.1): The VPN the client's address is in.
pub const VIRTUAL_SUBNET_SELECTION: Tag<Value> = Tag::new(221);

/// `v4:222` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_222: Tag<Vec<u8>> = Tag::new(222);

/// `v4:223` (RFC 3942, section 4): Not assigned.
pub const UNASSIGNED_223: Tag<Vec<u8>> = Tag::new(223);

/// `v4:224` (RFC 3942, section 4): For the site to define.
pub const SITE_SPECIFIC_224: Tag<Vec<u8>> = Tag::new(224);

/// `v4:225` (RFC 3942, section 4): For the site to define.
pub const SITE_SPECIFIC_225: Tag<Vec<u8>> = Tag::new(225);

/// `v4:226` (RFC 3942, section 4): For the site to define.
pub const SITE_SPECIFIC_226: Tag<Vec<u8>> = Tag::new(226);

/// `v4:227` (RFC 3942, section 4): For the site to define.
pub const SITE_SPECIFIC_227: Tag<Vec<u8>> = Tag::new(227);

/// `v4:228` (RFC 3942, section 4): For the site to define.
pub const SITE_SPECIFIC_228: Tag<Vec<u8>> = Tag::new(228);

/// `v4:229` (RFC 3942, section 4): For the site to define.
pub const SITE_SPECIFIC_229: Tag<Vec<u8>> = Tag::new(229);

/// `v4:230` (RFC 3942, section 4): For the site to define.
pub const SITE_SPECIFIC_230: Tag<Vec<u8>> = Tag::new(230);

/// `v4:231` (RFC 3942, section 4): For the site to define.
pub const SITE_SPECIFIC_231: Tag<Vec<u8>> = Tag::new(231);

/// `v4:232` (RFC 3942, section 4): For the site to define.
pub const SITE_SPECIFIC_232: Tag<Vec<u8>> = Tag::new(232);

/// `v4:233` (RFC 3942, section 4): For the site to define.
pub const SITE_SPECIFIC_233: Tag<Vec<u8>> = Tag::new(233);

/// `v4:234` (RFC 3942, section 4): For the site to define.
pub const SITE_SPECIFIC_234: Tag<Vec<u8>> = Tag::new(234);

/// `v4:235` (RFC 3942, section 4): For the site to define.
pub const SITE_SPECIFIC_235: Tag<Vec<u8>> = Tag::new(235);

/// `v4:236` (RFC 3942, section 4): For the site to define.
pub const SITE_SPECIFIC_236: Tag<Vec<u8>> = Tag::new(236);

/// `v4:237` (RFC 3942, section 4): For the site to define.
pub const SITE_SPECIFIC_237: Tag<Vec<u8>> = Tag::new(237);

/// `v4:238` (RFC 3942, section 4): For the site to define.
pub const SITE_SPECIFIC_238: Tag<Vec<u8>> = Tag::new(238);

/// `v4:239` (RFC 3942, section 4): For the site to define.
pub const SITE_SPECIFIC_239: Tag<Vec<u8>> = Tag::new(239);

/// `v4:240` (RFC 3942, section 4): For the site to define.
pub const SITE_SPECIFIC_240: Tag<Vec<u8>> = Tag::new(240);

/// `v4:241` (RFC 3942, section 4): For the site to define.
pub const SITE_SPECIFIC_241: Tag<Vec<u8>> = Tag::new(241);

/// `v4:242` (RFC 3942, section 4): For the site to define.
pub const SITE_SPECIFIC_242: Tag<Vec<u8>> = Tag::new(242);

/// `v4:243` (RFC 3942, section 4): For the site to define.
pub const SITE_SPECIFIC_243: Tag<Vec<u8>> = Tag::new(243);

/// `v4:244` (RFC 3942, section 4): For the site to define.
pub const SITE_SPECIFIC_244: Tag<Vec<u8>> = Tag::new(244);

/// `v4:245` (RFC 3942, section 4): For the site to define.
pub const SITE_SPECIFIC_245: Tag<Vec<u8>> = Tag::new(245);

/// `v4:246` (RFC 3942, section 4): For the site to define.
pub const SITE_SPECIFIC_246: Tag<Vec<u8>> = Tag::new(246);

/// `v4:247` (RFC 3942, section 4): For the site to define.
pub const SITE_SPECIFIC_247: Tag<Vec<u8>> = Tag::new(247);

/// `v4:248` (RFC 3942, section 4): For the site to define.
pub const SITE_SPECIFIC_248: Tag<Vec<u8>> = Tag::new(248);

/// `v4:249` (RFC 3942, section 4): For the site to define.
pub const SITE_SPECIFIC_249: Tag<Vec<u8>> = Tag::new(249);

/// `v4:250` (RFC 3942, section 4): For the site to define.
pub const SITE_SPECIFIC_250: Tag<Vec<u8>> = Tag::new(250);

/// `v4:251` (RFC 3942, section 4): For the site to define.
pub const SITE_SPECIFIC_251: Tag<Vec<u8>> = Tag::new(251);

/// `v4:252` (RFC 3942, section 4): For the site to define.
pub const SITE_SPECIFIC_252: Tag<Vec<u8>> = Tag::new(252);

/// `v4:253` (RFC 3942, section 4): For the site to define.
pub const SITE_SPECIFIC_253: Tag<Vec<u8>> = Tag::new(253);

/// `v4:254` (RFC 3942, section 4): For the site to define.
pub const SITE_SPECIFIC_254: Tag<Vec<u8>> = Tag::new(254);
