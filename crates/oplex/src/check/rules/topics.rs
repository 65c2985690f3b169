//! Rules for the mistakes that layouts report, whatever the option.

use crate::check::declare::{Check, Find, OptionValue, v4_plan};
use crate::finding::{About, Example, Finding, Rule, Severity};
use crate::layout::{Topic, Value};

pub(super) static CHECKS: [Check; 14] = [
    Check::new(&MTU_TOO_SMALL, Find::TopicsAndValue(&[Topic::Bound], small_mtu)),
    Check::new(&VALUE_OUT_OF_RANGE, Find::Topics(&[Topic::Bound])),
    Check::new(&VALUE_UNDEFINED, Find::Topics(&[Topic::Meaning])),
    Check::new(&NETMASK_NOT_CONTIGUOUS, Find::Topics(&[Topic::Mask])),
    Check::new(&NAME_TOO_LONG, Find::Topics(&[Topic::LabelLength])),
    Check::new(&HOST_NAME_INVALID, Find::Topics(&[Topic::NameSyntax])),
    Check::new(&NAME_HAS_SEPARATOR, Find::Topics(&[Topic::NameList])),
    Check::new(&TEXT_NOT_ASCII, Find::Topics(&[Topic::Ascii])),
    Check::new(&TEXT_ENDS_IN_NUL, Find::Topics(&[Topic::Nul])),
    Check::new(&ROUTE_HOST_BITS_SET, Find::Topics(&[Topic::HostBits])),
    Check::new(&URI_MALFORMED, Find::Topics(&[Topic::Uri])),
    Check::new(&COMPRESSION_POINTER_INVALID, Find::Topics(&[Topic::Pointer])),
    Check::new(&VALUE_MALFORMED, Find::Topics(&[Topic::Shape])),
    Check::new(&USER_CLASS_WITHOUT_LENGTHS, Find::Topics(&[Topic::Shape])),
];

static MTU_TOO_SMALL: Rule = Rule {
    name: "mtu-too-small",
    severity: Severity::Error,
    about: About::Options(&["v4:26", "v4:25"]),
    rfc: "RFC 2132, section 5.1",
    summary: "an MTU that is not allowed, or so small that it hardly works",
    why: "Below 68 IPv4 itself stops working. Below 576, the size every host must accept (RFC 791, section 3.2), \
          everything is cut into fragments, which many paths drop.",
    examples: &[v4_plan!("", "router = \"10.64.4.1\"\nmtu-interface = 60\n")],
};

/// Below what every host must accept, though allowed.
fn small_mtu(value: &OptionValue<'_>) -> Option<Finding> {
    let Value::Number(mtu @ 68..576) = value.value else { return None };
    value.is("v4:26").then(|| {
        let finding = MTU_TOO_SMALL.finding(format!("an MTU of {mtu} cuts nearly every datagram into fragments"));
        finding.as_severity(Severity::Warning).instead("576 or more; Ethernet has 1500")
    })
}

static VALUE_OUT_OF_RANGE: Rule = Rule {
    name: "value-out-of-range",
    severity: Severity::Error,
    about: About::AnyOption,
    rfc: "",
    summary: "a number outside the range that its option allows",
    why: "Clients may refuse the option, or do something nobody meant.",
    examples: &[v4_plan!("", "router = \"10.64.4.1\"\ndefault-ip-ttl = 0\n")],
};

static VALUE_UNDEFINED: Rule = Rule {
    name: "value-undefined",
    severity: Severity::Error,
    about: About::AnyOption,
    rfc: "",
    summary: "a number or bit that the option gives no meaning",
    why: "Every client may take it for something else, and most ignore the option then.",
    examples: &[v4_plan!("", "router = \"10.64.4.1\"\nnetbios-node-type = 3\n")],
};

static NETMASK_NOT_CONTIGUOUS: Rule = Rule {
    name: "netmask-not-contiguous",
    severity: Severity::Error,
    about: About::Atoms(&["netmask"]),
    rfc: "RFC 4632, section 5.1",
    summary: "a mask whose ones do not all stand to the left",
    why: "Hosts refuse such a mask or compute a wrong network from it. RFC 950 merely advised against it; since \
          classless routing it is wrong.",
    examples: &[v4_plan!("", "router = \"10.64.4.1\"\nsubnet-mask = \"255.0.255.0\"\n")],
};

static NAME_TOO_LONG: Rule = Rule {
    name: "name-too-long",
    severity: Severity::Error,
    about: About::Atoms(&["name", "partial-name", "compressed-names", "lenient-names", "dotted-name"]),
    rfc: "RFC 1035, section 2.3.4",
    summary: "a name longer than 255 octets, or with more than 63 between two dots",
    why: "No DNS server can answer for such a name, and some clients drop the whole option.",
    examples: &[v4_plan!(
        "",
        "router = \"10.64.4.1\"\n\
         domain-search = [\"the-long-and-winding-name-of-the-observatory-on-the-fell-above-the-tarn.example\"]\n"
    )],
};

static HOST_NAME_INVALID: Rule = Rule {
    name: "host-name-invalid",
    severity: Severity::Error,
    about: About::Atoms(&["name", "partial-name", "compressed-names", "lenient-names", "dotted-name"]),
    rfc: "RFC 1123, section 2.1",
    summary: "a name with characters that host names do not have",
    why: "Clients put it before or after other names and look that up; nothing will be found.",
    examples: &[v4_plan!("", "router = \"10.64.4.1\"\nhostname = \"dome_3!\"\n")],
};

static NAME_HAS_SEPARATOR: Rule = Rule {
    name: "name-has-separator",
    severity: Severity::Error,
    about: About::Atoms(&["name", "partial-name", "compressed-names", "lenient-names", "dotted-name"]),
    rfc: "RFC 3397, section 1",
    summary: "a space or a comma in an option that takes one name",
    why: "Clients take the whole text for one name, and look up names that cannot exist. A list of domains has an \
          option of its own.",
    examples: &[v4_plan!("", "router = \"10.64.4.1\"\ndomain-name = \"tarnfell.example domes.tarnfell.example\"\n")],
};

static TEXT_NOT_ASCII: Rule = Rule {
    name: "text-not-ascii",
    severity: Severity::Error,
    about: About::Atoms(&["text", "dotted-name"]),
    rfc: "RFC 2132, section 2",
    summary: "a character outside ASCII, or a control character, in text that is NVT ASCII",
    why: "Clients read it in whatever character set they happen to have; file names and domains come out wrong.",
    examples: &[v4_plan!("", "router = \"10.64.4.1\"\nroot-path = \"/export/contrôleur\"\n")],
};

static TEXT_ENDS_IN_NUL: Rule = Rule {
    name: "text-ends-in-nul",
    severity: Severity::Warning,
    about: About::Atoms(&["text", "dotted-name", "utf8", "uri"]),
    rfc: "RFC 2132, section 2",
    summary: "text that ends in NUL; an error where the option's own RFC forbids it",
    why: "Senders should not add it. Receivers must be ready to cut it off, but some take it for part of a name.",
    examples: &[
        Example::Payload("v4:15", "7461726e66656c6c2e6578616d706c6500"),
        Example::Payload("v4:101", "4575726f70652f4f736c6f00"),
    ],
};

static ROUTE_HOST_BITS_SET: Rule = Rule {
    name: "route-host-bits-set",
    severity: Severity::Warning,
    about: About::Atoms(&["route4", "prefix6"]),
    rfc: "RFC 3442, \"DHCP Client Behavior\"",
    summary: "a route whose destination has bits below its prefix length",
    why: "Clients must clear those bits, so the route works; but it is not the one that was written, which is \
          usually a typing error in the address or in the length.",
    examples: &[v4_plan!(
        "",
        "classless-static-route = [\"10.64.9.0/21 via 10.64.4.1\", \"0.0.0.0/0 via 10.64.4.1\"]\n"
    )],
};

static URI_MALFORMED: Rule = Rule {
    name: "uri-malformed",
    severity: Severity::Error,
    about: About::Atoms(&["uri"]),
    rfc: "RFC 3986, section 3",
    summary: "text that is not a URI, where a URI is wanted",
    why: "Clients cannot fetch it, and say nothing about that.",
    examples: &[v4_plan!("", "router = \"10.64.4.1\"\ndhcp-captive-portal = \"portal.tarnfell.example\"\n")],
};

static COMPRESSION_POINTER_INVALID: Rule = Rule {
    name: "compression-pointer-invalid",
    severity: Severity::Error,
    about: About::Atoms(&["compressed-names", "lenient-names"]),
    rfc: "RFC 1035, section 4.1.4",
    summary: "a compression pointer that leads nowhere, forwards or round in a circle",
    why: "Readers that follow it hang or fail; the name and all after it are lost.",
    examples: &[Example::Payload("v4:119", "046d617374c000c005")],
};

static VALUE_MALFORMED: Rule = Rule {
    name: "value-malformed",
    severity: Severity::Error,
    about: About::AnyOption,
    rfc: "",
    summary: "a value that is not of the option's form",
    why: "Clients read the octets by the option's format; what has another form is dropped or misread.",
    examples: &[v4_plan!("", "router = \"10.64.4\"\n")],
};

static USER_CLASS_WITHOUT_LENGTHS: Rule = Rule {
    name: "user-class-without-lengths",
    severity: Severity::Warning,
    about: About::Options(&["v4:77"]),
    rfc: "RFC 3004, section 4",
    summary: "option 77 holds text where each class should have its length in front",
    why: "Many clients send the bare text, so servers should match it whole. What reads the option by its RFC takes \
          the first letter for a length and finds nothing.",
    examples: &[Example::Payload("v4:77", "646f6d6573")],
};
