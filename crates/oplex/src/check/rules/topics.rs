//! Rules for the mistakes that layouts report, whatever the option.

use crate::check::declare::{OptionValue, check, checks, v4_plan};
use crate::finding::{Example, Finding, Severity};
use crate::layout::{Scalar, Topic};

checks! {
    MTU_OUT_OF_RANGE, VALUE_OUT_OF_RANGE, VALUE_UNDEFINED, NETMASK_NOT_CONTIGUOUS, NAME_TOO_LONG, HOST_NAME_INVALID,
    NAME_HAS_SEPARATOR, TEXT_NOT_ASCII, TEXT_ENDS_IN_NUL, ROUTE_HOST_BITS_SET, URI_MALFORMED,
    COMPRESSION_POINTER_INVALID, VALUE_MALFORMED, USER_CLASS_WITHOUT_LENGTHS
}

check! { TopicsAndValue(&[Topic::Bound], |_, definition| definition.is("v4:26"), small_mtu),
    /// an MTU outside 68 to 65535, or so small that nearly every datagram is fragmented
    ///
    /// Below 68 IPv4 itself stops working. Below 576, the size every host must accept (RFC 791, section 3.2), nearly
    /// every datagram is fragmented, and many paths drop fragments.
    static MTU_OUT_OF_RANGE = "mtu-out-of-range", Error, Options("v4:26", "v4:25"), "RFC 2132, section 5.1";
    v4_plan!("", "router = \"10.64.4.1\"\nmtu-interface = 60\n")
}

/// Below what every host must accept, though allowed.
fn small_mtu(value: &OptionValue<'_>) -> Option<Finding> {
    let Some(Scalar::Number(mtu @ 68..576)) = value.single() else { return None };
    let finding = MTU_OUT_OF_RANGE.finding(format!("MTU {mtu} is below 576, so nearly every datagram is fragmented"));
    Some(finding.as_severity(Severity::Warning).advice("576 or more; Ethernet has 1500"))
}

check! { Topics(&[Topic::Bound]),
    /// a number outside the range that its option allows
    ///
    /// Clients may refuse the option, or act on it in undefined ways.
    static VALUE_OUT_OF_RANGE = "value-out-of-range", Error, AnyOption, "";
    v4_plan!("", "router = \"10.64.4.1\"\ndefault-ip-ttl = 0\n")
}

check! { Topics(&[Topic::Meaning]),
    /// a number or bit that the option does not define
    ///
    /// Clients may interpret it differently, and most ignore the option.
    static VALUE_UNDEFINED = "value-undefined", Error, AnyOption, "";
    v4_plan!("", "router = \"10.64.4.1\"\nnetbios-node-type = 3\n")
}

check! { Topics(&[Topic::Mask]),
    /// a mask whose one bits are not contiguous
    ///
    /// Hosts refuse such a mask or compute a wrong network from it. RFC 950 only advised against it; since classless
    /// routing it is wrong.
    static NETMASK_NOT_CONTIGUOUS = "netmask-not-contiguous", Error, Atoms("netmask"), "RFC 4632, section 5.1";
    v4_plan!("", "router = \"10.64.4.1\"\nsubnet-mask = \"255.0.255.0\"\n")
}

check! { Topics(&[Topic::LabelLength]),
    /// a name longer than 255 octets, or with a label longer than 63
    ///
    /// No DNS server can answer for such a name, and some clients drop the whole option.
    static NAME_TOO_LONG = "name-too-long", Error, Atoms("name", "partial-name", "compressed-names", "lenient-names", "dotted-name"),
        "RFC 1035, section 2.3.4";
    v4_plan!(
        "",
        "router = \"10.64.4.1\"\n\
         domain-search = [\"the-long-and-winding-name-of-the-observatory-on-the-fell-above-the-tarn.example\"]\n"
    )
}

check! { TopicsAndValue(&[Topic::NameSyntax], |_, definition| definition.is("v4:12"), underscore),
    /// a name with characters that are not allowed in host names
    ///
    /// Clients combine it with other names and look those up; nothing will be found.
    static HOST_NAME_INVALID = "host-name-invalid", Error, Atoms("name", "partial-name", "compressed-names", "lenient-names", "dotted-name"),
        "RFC 1123, section 2.1";
    v4_plan!("", "router = \"10.64.4.1\"\n[[reservation]]\nnetwork = \"control-room\"\nmac = \"02:00:5e:00:53:11\"\n\
        send.v4 = { hostname = \"dome_3!\" }\n")
}

/// Names of services have underscores (RFC 8552), those of hosts do not.
fn underscore(one: &OptionValue<'_>) -> Option<Finding> {
    let name = one.text().filter(|name| name.contains('_'))?;
    let finding = HOST_NAME_INVALID.finding(format!("{name} has an underscore; use letters, digits and hyphens"));
    Some(finding.by("RFC 1035, section 2.3.1").borne())
}

check! { Topics(&[Topic::NameList]),
    /// a space or a comma in an option that holds one name
    ///
    /// Clients take the whole text as one name, and look up names that cannot exist. A list of domains has an option of
    /// its own.
    static NAME_HAS_SEPARATOR = "name-has-separator", Error, Atoms("name", "partial-name", "compressed-names", "lenient-names", "dotted-name"),
        "RFC 3397, section 1";
    v4_plan!("", "router = \"10.64.4.1\"\ndomain-name = \"tarnfell.example domes.tarnfell.example\"\n")
}

check! { Topics(&[Topic::Ascii]),
    /// a character outside ASCII, or a control character, in NVT ASCII text
    ///
    /// Clients read it in an arbitrary character set; file names and domains come out wrong.
    static TEXT_NOT_ASCII = "text-not-ascii", Error, Atoms("text", "dotted-name"), "RFC 2132, section 2";
    v4_plan!("", "router = \"10.64.4.1\"\nroot-path = \"/export/contrôleur\"\n")
}

check! { Topics(&[Topic::Nul]),
    /// text that ends in NUL; an error where the option's own RFC forbids it
    ///
    /// Senders should not add it. Receivers must be able to remove it, but some treat it as part of a name.
    static TEXT_ENDS_IN_NUL = "text-ends-in-nul", Warning, Atoms("text", "dotted-name", "utf8", "uri"),
        "RFC 2132, section 2";
    Example::Payload("v4:15", "7461726e66656c6c2e6578616d706c6500"),
    Example::Payload("v4:101", "4575726f70652f4f736c6f00")
}

check! { Topics(&[Topic::HostBits]),
    /// a route whose destination has bits set below its prefix length
    ///
    /// Clients must clear those bits, so the route works, but differs from what is written: usually a typing error in
    /// the address or the length.
    static ROUTE_HOST_BITS_SET = "route-host-bits-set", Warning, Atoms("route4", "prefix6"),
        "RFC 3442, \"DHCP Client Behavior\"";
    v4_plan!(
        "",
        "classless-static-route = [\"10.64.9.0/21 via 10.64.4.1\", \"0.0.0.0/0 via 10.64.4.1\"]\n"
    )
}

check! { Topics(&[Topic::Uri]),
    /// text that is not a URI, where a URI is required
    ///
    /// Clients cannot fetch it, and report nothing.
    static URI_MALFORMED = "uri-malformed", Error, Atoms("uri"), "RFC 3986, section 3";
    v4_plan!("", "router = \"10.64.4.1\"\ndhcp-captive-portal = \"portal.tarnfell.example\"\n")
}

check! { Topics(&[Topic::Pointer]),
    /// a compression pointer that points outside the option, forwards or into a loop
    ///
    /// Readers that follow it hang or fail; the name and everything after it are lost.
    static COMPRESSION_POINTER_INVALID = "compression-pointer-invalid", Error, Atoms("compressed-names", "lenient-names"),
        "RFC 1035, section 4.1.4";
    Example::Payload("v4:119", "046d617374c000c005")
}

check! { Topics(&[Topic::Shape]),
    /// a value that does not have the option's form
    ///
    /// Clients parse the octets by the option's format; anything else is dropped or misread.
    static VALUE_MALFORMED = "value-malformed", Error, AnyOption, "";
    v4_plan!("", "router = \"10.64.4\"\n")
}

check! { Topics(&[Topic::Shape]),
    /// option 77 holds text without a length in front of each class
    ///
    /// Many clients send the bare text, so servers should match it whole. A reader that follows the RFC takes the first
    /// letter for a length and finds nothing.
    static USER_CLASS_WITHOUT_LENGTHS = "user-class-without-lengths", Warning, Options("v4:77"), "RFC 3004, section 4";
    Example::Payload("v4:77", "646f6d6573")
}
