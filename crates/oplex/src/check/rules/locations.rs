//! Rules about coordinates.

use crate::check::declare::{OptionValue, check, checks};
use crate::finding::{Example, Finding};
use crate::layout::Value;

checks! { ALTITUDE_PRECISION_INVALID, LOCATION_VERSION_INVALID }

check! { Value(altitude_precision_invalid),
    /// a resolution or uncertainty of an altitude in metres above 30
    ///
    /// Readers cannot say how exact the altitude is; emergency services use it to find the floor.
    static ALTITUDE_PRECISION_INVALID = "altitude-precision-invalid", Error, Options("v4:123", "v4:144", "v6:63"),
        "RFC 6225, section 2.4.5";
    Example::Payload("v4:144", "48000000004800000000 17c000000041")
}

fn altitude_precision_invalid(one: &OptionValue<'_>) -> Option<Finding> {
    // Without an altitude all of this can have any value (section 2.4.1); of floors the field says nothing.
    let metres = one.value().field("atype")?.number() == Some(1);
    let names = ["altres", "altunc", "altuncertainty"];
    let (name, precision) = names.iter().find_map(|name| Some((name, one.value().field(name)?.number()?)))?;
    (metres && precision > 30)
        .then(|| ALTITUDE_PRECISION_INVALID.finding(format!("{name} is {precision}; of metres it is at most 30")))
}

check! { Value(location_version_invalid),
    /// a location of DHCPv6 that is not of version 1
    ///
    /// The meaning of all its uncertainties is defined for version 1 alone.
    static LOCATION_VERSION_INVALID = "location-version-invalid", Error, Options("v6:63"), "RFC 6225, section 2.1";
    Example::Payload("v6:63", "48000000004800000000 13c000000081")
}

fn location_version_invalid(one: &OptionValue<'_>) -> Option<Finding> {
    let version = one.value().field("version").and_then(Value::number)?;
    (version != 1).then(|| LOCATION_VERSION_INVALID.finding(format!("version is {version}, and only 1 is defined")))
}
