//! Rules for the mistakes that layouts report, whatever the option.

use crate::check::declare::{OptionValue, check, checks, v4_plan};
use crate::finding::{Example, Finding, Severity};
use crate::layout::{Topic, Value};

checks! {
    MTU_TOO_SMALL, VALUE_OUT_OF_RANGE, VALUE_UNDEFINED, NETMASK_NOT_CONTIGUOUS, NAME_TOO_LONG, HOST_NAME_INVALID,
    NAME_HAS_SEPARATOR, TEXT_NOT_ASCII, TEXT_ENDS_IN_NUL, ROUTE_HOST_BITS_SET, URI_MALFORMED,
    COMPRESSION_POINTER_INVALID, VALUE_MALFORMED, USER_CLASS_WITHOUT_LENGTHS
}

check! { TopicsAndValue(&[Topic::Bound], small_mtu),
    /// an MTU that is not allowed, or so small that it hardly works
    ///
    /// Below 68 IPv4 itself stops working. Below 576, the size every host must accept (RFC 791, section 3.2),
    /// everything is cut into fragments, which many paths drop.
    static MTU_TOO_SMALL = "mtu-too-small", Error, Options("v4:26", "v4:25"), "RFC 2132, section 5.1";
    v4_plan!("", "router = \"10.64.4.1\"\nmtu-interface = 60\n")
}

/// Below what every host must accept, though allowed.
fn small_mtu(value: &OptionValue<'_>) -> Option<Finding> {
    let Value::Number(mtu @ 68..576) = value.value else { return None };
    value.is("v4:26").then(|| {
        let finding = MTU_TOO_SMALL.finding(format!("an MTU of {mtu} cuts nearly every datagram into fragments"));
        finding.as_severity(Severity::Warning).instead("576 or more; Ethernet has 1500")
    })
}

check! { Topics(&[Topic::Bound]),
    /// a number outside the range that its option allows
    ///
    /// Clients may refuse the option, or do something nobody meant.
    static VALUE_OUT_OF_RANGE = "value-out-of-range", Error, AnyOption, "";
    v4_plan!("", "router = \"10.64.4.1\"\ndefault-ip-ttl = 0\n")
}

check! { Topics(&[Topic::Meaning]),
    /// a number or bit that the option gives no meaning
    ///
    /// Every client may take it for something else, and most ignore the option then.
    static VALUE_UNDEFINED = "value-undefined", Error, AnyOption, "";
    v4_plan!("", "router = \"10.64.4.1\"\nnetbios-node-type = 3\n")
}

check! { Topics(&[Topic::Mask]),
    /// a mask whose ones do not all stand to the left
    ///
    /// Hosts refuse such a mask or compute a wrong network from it. RFC 950 merely advised against it; since classless
    /// routing it is wrong.
    static NETMASK_NOT_CONTIGUOUS = "netmask-not-contiguous", Error, Atoms("netmask"), "RFC 4632, section 5.1";
    v4_plan!("", "router = \"10.64.4.1\"\nsubnet-mask = \"255.0.255.0\"\n")
}

check! { Topics(&[Topic::LabelLength]),
    /// a name longer than 255 octets, or with more than 63 between two dots
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

check! { Topics(&[Topic::NameSyntax]),
    /// a name with characters that host names do not have
    ///
    /// Clients put it before or after other names and look that up; nothing will be found.
    static HOST_NAME_INVALID = "host-name-invalid", Error, Atoms("name", "partial-name", "compressed-names", "lenient-names", "dotted-name"),
        "RFC 1123, section 2.1";
    v4_plan!("", "router = \"10.64.4.1\"\nhostname = \"dome_3!\"\n")
}

check! { Topics(&[Topic::NameList]),
    /// a space or a comma in an option that takes one name
    ///
    /// Clients take the whole text for one name, and look up names that cannot exist. A list of domains has an option
    /// of its own.
    static NAME_HAS_SEPARATOR = "name-has-separator", Error, Atoms("name", "partial-name", "compressed-names", "lenient-names", "dotted-name"),
        "RFC 3397, section 1";
    v4_plan!("", "router = \"10.64.4.1\"\ndomain-name = \"tarnfell.example domes.tarnfell.example\"\n")
}

check! { Topics(&[Topic::Ascii]),
    /// a character outside ASCII, or a control character, in text that is NVT ASCII
    ///
    /// Clients read it in whatever character set they happen to have; file names and domains come out wrong.
    static TEXT_NOT_ASCII = "text-not-ascii", Error, Atoms("text", "dotted-name"), "RFC 2132, section 2";
    v4_plan!("", "router = \"10.64.4.1\"\nroot-path = \"/export/contrôleur\"\n")
}

check! { Topics(&[Topic::Nul]),
    /// text that ends in NUL; an error where the option's own RFC forbids it
    ///
    /// Senders should not add it. Receivers must be ready to cut it off, but some take it for part of a name.
    static TEXT_ENDS_IN_NUL = "text-ends-in-nul", Warning, Atoms("text", "dotted-name", "utf8", "uri"),
        "RFC 2132, section 2";
    Example::Payload("v4:15", "7461726e66656c6c2e6578616d706c6500"),
    Example::Payload("v4:101", "4575726f70652f4f736c6f00")
}

check! { Topics(&[Topic::HostBits]),
    /// a route whose destination has bits below its prefix length
    ///
    /// Clients must clear those bits, so the route works; but it is not the one that was written, which is usually a
    /// typing error in the address or in the length.
    static ROUTE_HOST_BITS_SET = "route-host-bits-set", Warning, Atoms("route4", "prefix6"),
        "RFC 3442, \"DHCP Client Behavior\"";
    v4_plan!(
        "",
        "classless-static-route = [\"10.64.9.0/21 via 10.64.4.1\", \"0.0.0.0/0 via 10.64.4.1\"]\n"
    )
}

check! { Topics(&[Topic::Uri]),
    /// text that is not a URI, where a URI is wanted
    ///
    /// Clients cannot fetch it, and say nothing about that.
    static URI_MALFORMED = "uri-malformed", Error, Atoms("uri"), "RFC 3986, section 3";
    v4_plan!("", "router = \"10.64.4.1\"\ndhcp-captive-portal = \"portal.tarnfell.example\"\n")
}

check! { Topics(&[Topic::Pointer]),
    /// a compression pointer that leads nowhere, forwards or round in a circle
    ///
    /// Readers that follow it hang or fail; the name and all after it are lost.
    static COMPRESSION_POINTER_INVALID = "compression-pointer-invalid", Error, Atoms("compressed-names", "lenient-names"),
        "RFC 1035, section 4.1.4";
    Example::Payload("v4:119", "046d617374c000c005")
}

check! { Topics(&[Topic::Shape]),
    /// a value that is not of the option's form
    ///
    /// Clients read the octets by the option's format; what has another form is dropped or misread.
    static VALUE_MALFORMED = "value-malformed", Error, AnyOption, "";
    v4_plan!("", "router = \"10.64.4\"\n")
}

check! { Topics(&[Topic::Shape]),
    /// option 77 holds text where each class should have its length in front
    ///
    /// Many clients send the bare text, so servers should match it whole. What reads the option by its RFC takes the
    /// first letter for a length and finds nothing.
    static USER_CLASS_WITHOUT_LENGTHS = "user-class-without-lengths", Warning, Options("v4:77"), "RFC 3004, section 4";
    Example::Payload("v4:77", "646f6d6573")
}
