//! Rules about options that hold others.

use crate::check::declare::{OptionValue, check, checks};
use crate::codebook::{Codebook, Content};
use crate::family::Protocol;
use crate::finding::{Example, Finding, Severity};
use crate::layout::Value;

checks! {
    CONTAINER_CONTENT_WRONG, ENTERPRISE_REPEATED, RELAY_SUB_OPTION_ALONE
}

check! { ValueIf(|_, definition| !definition.holds.is_empty(), container_content_wrong),
    /// an option lacks one of the options that it must hold, or holds too many of one
    ///
    /// Clients ignore the whole option, and the service that it describes is not used.
    static CONTAINER_CONTENT_WRONG = "container-content-wrong", Error, AnyOption, "";
    Example::Payload(
        "v6:56",
        "0001001020010db8006400000000000000000123 0001001020010db8006400000000000000000124",
    )
}

fn container_content_wrong(one: &OptionValue<'_>) -> Option<Finding> {
    if one.definition.holds.is_empty() {
        return None;
    }
    one.definition.holds.iter().find_map(|content| {
        let count = one.inside().filter(|option| content.options.contains(&option.code)).count();
        let most = content.most.map_or(usize::MAX, usize::from);
        if (usize::from(content.least)..=most).contains(&count) {
            return None;
        }
        let names: Vec<String> =
            content.options.iter().map(|code| named(&one.definition.id().to_string(), *code)).collect();
        let message = format!("it holds {count} of {}, but must hold {}", names.join(" or "), wanted(content));
        Some(CONTAINER_CONTENT_WRONG.finding(message).by(content.reference.clone()))
    })
}

fn wanted(content: &Content) -> String {
    match (content.least, content.most) {
        (_, Some(0)) => "none".to_owned(),
        (least, Some(most)) if least == most => format!("{least}"),
        (0, Some(most)) => format!("at most {most}"),
        (least, None) => format!("at least {least}"),
        (least, Some(most)) => format!("{least} to {most}"),
    }
}

/// How an option inside a container is called; some containers have codes of their own.
fn named(container: &str, code: u16) -> String {
    let codebook = Codebook::standard();
    let own = codebook.find(&format!("{container}/{code}")).ok().map(|known| known.name.to_string());
    let own = own.or_else(|| codebook.own(Protocol::V6, code).map(|known| known.name.to_string()));
    own.unwrap_or_else(|| code.to_string())
}

check! { Value(enterprise_repeated),
    /// an enterprise number occurs twice in one option
    ///
    /// The result is undefined: some readers use the first block, some the last, some both.
    static ENTERPRISE_REPEATED = "enterprise-repeated", Warning, Options("v4:124", "v4:125"), "RFC 3925, section 3";
    Example::Payload("v4:125", "00007ed9030101050000 7ed903020106")
}

fn enterprise_repeated(one: &OptionValue<'_>) -> Option<Finding> {
    let blocks = one.value().items().iter();
    let enterprises: Vec<u64> = blocks.filter_map(|block| block.field("enterprise")?.number()).collect();
    let again = enterprises.iter().enumerate().find(|(at, enterprise)| enterprises[..*at].contains(enterprise));
    let message = format!("enterprise {} occurs twice", again?.1);
    Some(ENTERPRISE_REPEATED.finding(message).advice("one block for all of its options"))
}

check! { Value(relay_sub_option_alone),
    /// a relay agent sub-option lacks the one that must accompany it
    ///
    /// Servers must ignore it then, or cannot say whether they used it.
    static RELAY_SUB_OPTION_ALONE = "relay-sub-option-alone", Error, Options("v4:82"), "";
    Example::Payload("v4:82", "0e046665666c")
}

fn relay_sub_option_alone(one: &OptionValue<'_>) -> Option<Finding> {
    let Value::Options(parts) = one.value() else { return None };
    let has = |code: u16| parts.iter().any(|part| part.code == code);
    let network = [14, 15, 16].into_iter().find(|code| has(*code) && !has(13));
    if let Some(code) = network {
        let finding = RELAY_SUB_OPTION_ALONE.finding(format!("sub-option {code} without the access technology (13)"));
        return Some(finding.by("RFC 7839, section 7"));
    }
    if has(152) && !has(151) {
        let finding = RELAY_SUB_OPTION_ALONE.finding("the control of a virtual subnet (152) without the subnet (151)");
        return Some(finding.by("RFC 6607, section 3.3"));
    }
    if parts.iter().filter(|part| part.code == 7).count() > 1 {
        let finding = RELAY_SUB_OPTION_ALONE.finding("two RADIUS attributes sub-options (7), where one is allowed");
        return Some(finding.by("RFC 4014, section 4"));
    }
    // In an answer 151 stands alone, and that means it was heeded.
    (has(151) && !has(152)).then(|| {
        let finding = RELAY_SUB_OPTION_ALONE.finding("a virtual subnet (151) without its control (152)");
        finding.as_severity(Severity::Note).by("RFC 6607, section 5").advice("add 152, unless a server sends this")
    })
}
