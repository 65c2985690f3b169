//! What a check found, in the XML that systems read which show test results: a test for each rule, and for each
//! expectation. Errors are failures; what is less stands in the output of its test.

use std::io::{self, Write};

use oplex::check;
use oplex::finding::{About, Finding, Rule, Severity, Sources};
use oplex::plan::{Loaded, Plan};
use quick_xml::Writer;
use quick_xml::events::BytesText;

use super::clean;
use super::expected::{EXPECTED, Expected, expectations};
use crate::commands::{Checked, shown};

/// One test, and what was found.
struct Test<'f> {
    name: String,
    place: Option<(String, usize)>,
    findings: Vec<&'f Finding>,
}

/// The tests of a file that belong together.
struct Suite<'f> {
    name: String,
    tests: Vec<Test<'f>>,
    loaded: &'f Loaded,
}

fn suites<'f>(one: &'f Checked, alone: bool) -> Vec<Suite<'f>> {
    let Checked { path, loaded, report } = one;
    // Of several files each suite says whose it is.
    let named = |what: &str| if alone { what.to_owned() } else { format!("{what} of {}", shown(path)) };
    let mut suites = vec![Suite { name: named("rules"), tests: rules(loaded, &report.findings), loaded }];
    if let Some(plan) = loaded.plan.as_ref().filter(|plan| !plan.expectations.is_empty()) {
        let tests = of_expectations(plan, &loaded.sources, &report.findings);
        suites.push(Suite { name: named("expectations"), tests, loaded });
    }
    suites
}

pub(crate) fn write(out: &mut dyn Write, all: &[Checked]) -> io::Result<()> {
    let suites: Vec<Suite<'_>> = all.iter().flat_map(|one| suites(one, all.len() == 1)).collect();
    let file = all.iter().map(|one| shown(&one.path)).collect::<Vec<_>>().join(", ");
    let mut xml = Writer::new_with_indent(&mut *out, b' ', 2);
    xml.get_mut().write_all(b"<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n")?;
    let count = suites.iter().map(|suite| suite.tests.len()).sum::<usize>();
    let failed = suites.iter().map(|suite| failures(&suite.tests)).sum::<usize>();
    let top = xml.create_element("testsuites").with_attribute(("name", &*file));
    let top = top.with_attribute(("tests", &*count.to_string())).with_attribute(("failures", &*failed.to_string()));
    top.write_inner_content(|xml| {
        for Suite { name, tests, loaded } in &suites {
            let suite = xml.create_element("testsuite").with_attribute(("name", &**name));
            let suite = suite.with_attribute(("tests", &*tests.len().to_string()));
            let suite = suite.with_attribute(("failures", &*failures(tests).to_string()));
            suite.write_inner_content(|xml| tests.iter().try_for_each(|test| write_test(xml, name, test, loaded)))?;
        }
        Ok(())
    })?;
    out.write_all(b"\n")
}

/// Every rule that speaks of files such as this.
fn rules<'f>(loaded: &Loaded, found: &'f [Finding]) -> Vec<Test<'f>> {
    let about_files = |rule: &&Rule| match rule.about {
        About::Codebook | About::File => true,
        About::Message(_) | About::Exchange => false,
        _ => !loaded.is_codebook,
    };
    let own = |rule: &&Rule| rule.name != EXPECTED;
    // Where the file could not be read no other rule has run.
    let ran = |rule: &&Rule| loaded.plan.is_some() || found.iter().any(|finding| finding.rule.name == rule.name);
    let test = |rule: &Rule| Test {
        name: rule.name.to_owned(),
        place: None,
        findings: found.iter().filter(|finding| finding.rule.name == rule.name).collect(),
    };
    check::catalogue().into_iter().filter(about_files).filter(own).filter(ran).map(test).collect()
}

fn of_expectations<'f>(plan: &Plan, sources: &Sources, found: &'f [Finding]) -> Vec<Test<'f>> {
    let test =
        |Expected { title, place, unmet }| Test { name: title, place: Some((place.file, place.line)), findings: unmet };
    expectations(plan, sources, found).into_iter().map(test).collect()
}

fn failures(tests: &[Test<'_>]) -> usize {
    tests.iter().filter(|test| test.findings.iter().any(|finding| finding.severity == Severity::Error)).count()
}

fn write_test<W: Write>(xml: &mut Writer<W>, suite: &str, test: &Test<'_>, loaded: &Loaded) -> io::Result<()> {
    let name = clean::line(&test.name);
    let mut case = xml.create_element("testcase").with_attribute(("classname", suite)).with_attribute(("name", &*name));
    if let Some((file, line)) = &test.place {
        case = case.with_attribute(("file", &*clean::line(file))).with_attribute(("line", &*line.to_string()));
    }
    if test.findings.is_empty() {
        case.write_empty()?;
        return Ok(());
    }
    let is_error = |finding: &&Finding| finding.severity == Severity::Error;
    let (errors, others): (Vec<&Finding>, Vec<&Finding>) = test.findings.iter().partition(|finding| is_error(finding));
    case.write_inner_content(|xml| {
        if let Some(first) = errors.first() {
            let failure = xml.create_element("failure").with_attribute(("message", &*clean::line(&first.message)));
            failure.with_attribute(("type", first.rule.name)).write_text_content(text(&errors, loaded))?;
        }
        if !others.is_empty() {
            xml.create_element("system-out").write_text_content(text(&others, loaded))?;
        }
        Ok(())
    })?;
    Ok(())
}

/// The findings, a few lines each.
fn text(findings: &[&Finding], loaded: &Loaded) -> BytesText<'static> {
    let mut text = String::new();
    for finding in findings {
        let place = |spot| {
            let place = loaded.sources.location(spot);
            format!("{}:{}:{}", place.file, place.line, place.column)
        };
        let at = finding.spot.as_ref().map(place).unwrap_or_default();
        text.push_str(&format!("{at}: {}: {}\n", finding.severity, finding.message));
        for (spot, what) in &finding.related {
            text.push_str(&format!("  {}: {what}\n", place(spot)));
        }
        for (label, what) in [("try", finding.remedy()), ("see", Some(&*finding.rfc))] {
            if let Some(what) = what.filter(|what| !what.is_empty()) {
                text.push_str(&format!("  {label} {what}\n"));
            }
        }
        if finding.more > 0 {
            text.push_str(&format!("  and {} more like it\n", finding.more));
        }
    }
    BytesText::new(&clean::lines(&text)).into_owned()
}
