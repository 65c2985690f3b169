//! What a release says of itself.

use oplex::finding::{Finding, Sources};
use serde::{Deserialize, Serialize};
use serde_json::value::RawValue;

use super::digest;
use super::signature::{Signature, SigningKey};

/// The form of manifests; a later form gets a later number.
pub(super) const FORMAT: &str = "oplex-release/3";

/// What a release says of itself, and which parts it is made of. It is of bounded size, whatever is released.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Manifest {
    /// The form of this document.
    pub format: String,
    /// The number of the release, counted from 1.
    pub release: u32,
    /// The SHA-256 of the manifest before it; absent in the first.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub previous: Option<String>,
    /// A number of no meaning, by which a publisher knows its own manifest.
    pub nonce: String,
    /// What the plan calls itself.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub title: Option<String>,
    /// Who published it.
    pub author: String,
    /// What the author says about it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub note: Option<String>,
    /// When it was published, in UTC.
    pub published: String,
    /// What wrote it.
    pub tool: String,
    /// The number of the release whose content it has again.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub reverts_to: Option<u32>,
    /// How many networks, fleets and clients change since the release before, the server included.
    pub changes: usize,
    /// What the rules found, and was published all the same.
    pub findings: Noted,
    /// The content, by the SHA-256 of its first part: two releases with the same send every client the same octets.
    pub content: String,
    /// The plan and its files as they were written, by the first part.
    pub sources: String,
}

/// A release as its store has it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Release {
    /// What it says of itself.
    pub manifest: Manifest,
    /// The SHA-256 of that, as it is written.
    pub digest: String,
    /// Who proves to have published it.
    pub signature: Option<Signature>,
}

impl Release {
    /// Its number, counted from 1.
    #[must_use]
    pub fn number(&self) -> u32 {
        self.manifest.release
    }
}

/// The document of a release: its manifest, and the digest of the octets of that.
#[derive(Serialize, Deserialize)]
struct Document {
    manifest: Box<RawValue>,
    sha256: String,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    signature: Option<Signature>,
}

/// Writes a manifest, signed if there is a key.
pub(super) fn write(manifest: Manifest, key: Option<&SigningKey>) -> serde_json::Result<(Release, Vec<u8>)> {
    let text = serde_json::to_string_pretty(&manifest)?;
    let signature = key.map(|key| key.sign(text.as_bytes()));
    let release = Release { digest: digest(text.as_bytes()), manifest, signature: signature.clone() };
    let document = Document { manifest: RawValue::from_string(text)?, sha256: release.digest.clone(), signature };
    let mut octets = serde_json::to_vec_pretty(&document)?;
    octets.push(b'\n');
    Ok((release, octets))
}

/// Reads a manifest.
pub(super) fn read(octets: &[u8]) -> Result<Release, String> {
    #[derive(Deserialize)]
    struct Formed {
        format: String,
    }
    let wrong = |error| format!("not a release: {error}");
    let Document { manifest, sha256, signature } = serde_json::from_slice(octets).map_err(wrong)?;
    let digest = digest(manifest.get().as_bytes());
    if digest != sha256 {
        return Err("this manifest was changed after it was written: its digest is another".to_owned());
    }
    if signature.as_ref().is_some_and(|signature| !signature.is_of(manifest.get().as_bytes())) {
        return Err("its signature is not one of this manifest by the key that it names".to_owned());
    }
    let Formed { format } = serde_json::from_str(manifest.get()).map_err(wrong)?;
    match format.strip_prefix("oplex-release/") {
        _ if format == FORMAT => {}
        Some(_) => {
            return Err(format!(
                "its format is {format}, and this version reads {FORMAT}; use the version that wrote it"
            ));
        }
        None => return Err(format!("its format is `{format}`, which is none of a release")),
    }
    Ok(Release { manifest: serde_json::from_str(manifest.get()).map_err(wrong)?, digest, signature })
}

/// The findings that were there when a plan was published.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Noted {
    /// How many there were.
    pub count: usize,
    /// The first of them.
    pub first: Vec<KeptFinding>,
}

/// A finding that was there when a plan was published.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct KeptFinding {
    /// The rule.
    pub rule: String,
    /// `warning` or `note`.
    pub severity: String,
    /// What it says.
    pub message: String,
    /// The file.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub file: Option<String>,
    /// The line, counted from 1.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub line: Option<usize>,
}

impl Noted {
    /// As many findings as a manifest holds.
    const MOST: usize = 50;

    /// What is written down of findings.
    #[must_use]
    pub fn of(findings: &[Finding], sources: &Sources) -> Self {
        let known = |finding: &Finding| {
            let place = finding.spot.as_ref().map(|spot| sources.location(spot));
            KeptFinding {
                rule: finding.rule.name.to_owned(),
                severity: finding.severity.to_string(),
                message: finding.message.chars().take(300).collect(),
                line: place.as_ref().map(|place| place.line),
                file: place.map(|place| place.file),
            }
        };
        let more: usize = findings.iter().map(|finding| finding.more).sum();
        Self { count: findings.len() + more, first: findings.iter().take(Self::MOST).map(known).collect() }
    }
}
