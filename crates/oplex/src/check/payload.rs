//! Rules about one option's value.

use super::{Check, Find, OneValue, otherwise_fine};
use crate::finding::{Example, Finding, Rule, Severity};
use crate::layout::{Topic, Value};

pub(super) static CHECKS: [&Check; 13] = [
    &MTU_TOO_SMALL,
    &VALUE_OUT_OF_RANGE,
    &VALUE_WITHOUT_MEANING,
    &NETMASK_NOT_CONTIGUOUS,
    &DNS_LABEL_TOO_LONG,
    &NOT_A_HOST_NAME,
    &SEVERAL_NAMES_FOR_ONE,
    &TEXT_NOT_ASCII,
    &TEXT_ENDS_IN_NUL,
    &ROUTE_HOST_BITS_SET,
    &NOT_A_URI,
    &POINTER_ASTRAY,
    &VALUE_DOES_NOT_FIT_LAYOUT,
];

static VALUE_DOES_NOT_FIT_LAYOUT: Check = Check {
    rule: Rule {
        name: "value-does-not-fit-layout",
        severity: Severity::Error,
        rfc: "",
        summary: "a value that is not of the option's form",
        why: "Clients read the octets by the option's format; what has another form is dropped or misread.",
        example: otherwise_fine!("", "router = \"10.64.4\"\n"),
    },
    find: Find::Topics(&[Topic::Shape], |_| true),
};

static VALUE_OUT_OF_RANGE: Check = Check {
    rule: Rule {
        name: "value-out-of-range",
        severity: Severity::Error,
        rfc: "",
        summary: "a number outside the range that its option allows",
        why: "Clients may refuse the option, or do something nobody meant.",
        example: otherwise_fine!("", "router = \"10.64.4.1\"\ndefault-ip-ttl = 0\n"),
    },
    find: Find::Topics(&[Topic::Bound], |_| true),
};

static VALUE_WITHOUT_MEANING: Check = Check {
    rule: Rule {
        name: "value-without-meaning",
        severity: Severity::Error,
        rfc: "",
        summary: "a number or bit that the option gives no meaning",
        why: "Every client may take it for something else, and most ignore the option then.",
        example: otherwise_fine!("", "router = \"10.64.4.1\"\nnetbios-node-type = 3\n"),
    },
    find: Find::Topics(&[Topic::Meaning], |_| true),
};

static NETMASK_NOT_CONTIGUOUS: Check = Check {
    rule: Rule {
        name: "netmask-not-contiguous",
        severity: Severity::Error,
        rfc: "RFC 4632, section 5.1",
        summary: "a mask whose ones do not all stand to the left",
        why: "Hosts refuse such a mask or compute a wrong network from it. RFC 950 merely advised against it; since \
              classless routing it is wrong.",
        example: otherwise_fine!("", "router = \"10.64.4.1\"\nsubnet-mask = \"255.0.255.0\"\n"),
    },
    find: Find::Topics(&[Topic::Mask], |_| true),
};

static DNS_LABEL_TOO_LONG: Check = Check {
    rule: Rule {
        name: "dns-label-too-long",
        severity: Severity::Error,
        rfc: "RFC 1035, section 2.3.4",
        summary: "a name longer than 255 octets, or with more than 63 between two dots",
        why: "No DNS server can answer for such a name, and some clients drop the whole option.",
        example: otherwise_fine!(
            "",
            "router = \"10.64.4.1\"\n\
             domain-search = [\"the-long-and-winding-name-of-the-observatory-on-the-fell-above-the-tarn.example\"]\n"
        ),
    },
    find: Find::Topics(&[Topic::LabelLength], |_| true),
};

static NOT_A_HOST_NAME: Check = Check {
    rule: Rule {
        name: "not-a-host-name",
        severity: Severity::Error,
        rfc: "RFC 1123, section 2.1",
        summary: "a name with characters that host names do not have",
        why: "Clients put it before or after other names and look that up; nothing will be found.",
        example: otherwise_fine!("", "router = \"10.64.4.1\"\nhostname = \"dome_3!\"\n"),
    },
    find: Find::Topics(&[Topic::NameSyntax], |_| true),
};

static SEVERAL_NAMES_FOR_ONE: Check = Check {
    rule: Rule {
        name: "several-names-for-one",
        severity: Severity::Error,
        rfc: "RFC 3397, section 1",
        summary: "a space or a comma in an option that takes one name",
        why: "Clients take the whole text for one name, and look up names that cannot exist. A list of domains has an \
              option of its own.",
        example: otherwise_fine!(
            "",
            "router = \"10.64.4.1\"\ndomain-name = \"tarnfell.example domes.tarnfell.example\"\n"
        ),
    },
    find: Find::Topics(&[Topic::NameList], |_| true),
};

static TEXT_NOT_ASCII: Check = Check {
    rule: Rule {
        name: "text-not-ascii",
        severity: Severity::Error,
        rfc: "RFC 2132, section 2",
        summary: "a character outside ASCII, or a control character, in text that is NVT ASCII",
        why: "Clients read it in whatever character set they happen to have; file names and domains come out wrong.",
        example: otherwise_fine!("", "router = \"10.64.4.1\"\nroot-path = \"/export/contrôleur\"\n"),
    },
    find: Find::Topics(&[Topic::Ascii], |_| true),
};

static TEXT_ENDS_IN_NUL: Check = Check {
    rule: Rule {
        name: "text-ends-in-nul",
        severity: Severity::Warning,
        rfc: "RFC 2132, section 2",
        summary: "text that ends in NUL",
        why: "Senders should not add it. Receivers must be ready to cut it off, but some take it for part of a name.",
        example: Example::Payload("v4:15", "7461726e66656c6c2e6578616d706c6500"),
    },
    find: Find::Topics(&[Topic::Nul], |_| true),
};

static ROUTE_HOST_BITS_SET: Check = Check {
    rule: Rule {
        name: "route-host-bits-set",
        severity: Severity::Warning,
        rfc: "RFC 3442, \"DHCP Client Behavior\"",
        summary: "a route whose destination has bits below its prefix length",
        why: "Clients must clear those bits, so the route works; but it is not the one that was written, which is \
              usually a typing error in the address or in the length.",
        example: otherwise_fine!(
            "",
            "classless-static-route = [\"10.64.9.0/21 via 10.64.4.1\", \"0.0.0.0/0 via 10.64.4.1\"]\n"
        ),
    },
    find: Find::Topics(&[Topic::HostBits], |_| true),
};

static NOT_A_URI: Check = Check {
    rule: Rule {
        name: "not-a-uri",
        severity: Severity::Error,
        rfc: "RFC 3986, section 3",
        summary: "text that is not a URI, where a URI is wanted",
        why: "Clients cannot fetch it, and say nothing about that.",
        example: otherwise_fine!("", "router = \"10.64.4.1\"\ndhcp-captive-portal = \"portal.tarnfell.example\"\n"),
    },
    find: Find::Topics(&[Topic::Uri], |_| true),
};

static POINTER_ASTRAY: Check = Check {
    rule: Rule {
        name: "pointer-astray",
        severity: Severity::Error,
        rfc: "RFC 1035, section 4.1.4",
        summary: "a compression pointer that leads nowhere, forwards or round in a circle",
        why: "Readers that follow it hang or fail; the name and all after it are lost.",
        example: Example::Payload("v4:119", "046d617374c000c005"),
    },
    find: Find::Topics(&[Topic::Pointer], |_| true),
};

static MTU_TOO_SMALL: Check = Check {
    rule: Rule {
        name: "mtu-too-small",
        severity: Severity::Error,
        rfc: "RFC 2132, section 5.1",
        summary: "an MTU that is not allowed, or so small that it hardly works",
        why: "Below 68 IPv4 itself stops working. Below 576, the size every host must accept (RFC 791, section 3.2), \
              everything is cut into fragments, which many paths drop.",
        example: otherwise_fine!("", "router = \"10.64.4.1\"\nmtu-interface = 60\n"),
    },
    find: Find::Either(
        &[Topic::Bound],
        |definition| definition.has_id("v4:26") || definition.has_id("v4:25"),
        small_mtu,
    ),
};

/// Below what every host must accept, though allowed.
fn small_mtu(value: &OneValue<'_>) -> Option<Finding> {
    let Value::Number(mtu @ 68..576) = value.value else { return None };
    value.is("v4:26").then(|| {
        let finding = MTU_TOO_SMALL.rule.finding(format!("an MTU of {mtu} cuts nearly every datagram into fragments"));
        finding.as_severity(Severity::Warning).instead("576 or more; Ethernet has 1500")
    })
}
