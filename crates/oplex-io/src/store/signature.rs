//! Proof of who published a release, for stores that anybody can write to.

use std::path::Path;

use data_encoding::HEXLOWER;
use ed25519_dalek::Signer as _;
use ed25519_dalek::pkcs8::{DecodePrivateKey as _, DecodePublicKey as _};
use serde::{Deserialize, Serialize};

use crate::files::{self, FileError};

/// A signature of a manifest (Ed25519, RFC 8032).
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Signature {
    /// The public key, in hexadecimal.
    pub key: String,
    /// The signature of the manifest's octets as they stand in its document, in hexadecimal.
    pub ed25519: String,
}

impl Signature {
    /// Whether the key that it names has signed these octets.
    pub(super) fn is_of(&self, octets: &[u8]) -> bool {
        let decode = |text: &String| HEXLOWER.decode(text.as_bytes()).ok();
        let key = decode(&self.key).and_then(|key| ed25519_dalek::VerifyingKey::try_from(key.as_slice()).ok());
        let signature = decode(&self.ed25519).and_then(|octets| ed25519_dalek::Signature::from_slice(&octets).ok());
        key.zip(signature).is_some_and(|(key, signature)| key.verify_strict(octets, &signature).is_ok())
    }
}

/// A key that releases are signed with.
#[derive(Clone)]
pub struct SigningKey(ed25519_dalek::SigningKey);

impl SigningKey {
    /// Reads a private key: PKCS #8 in PEM, as `openssl genpkey -algorithm ed25519` writes it.
    ///
    /// # Errors
    /// A file that cannot be read, or is none of such a key.
    pub fn read(path: &Path) -> Result<Self, FileError> {
        let key = ed25519_dalek::SigningKey::from_pkcs8_pem(&files::text(path)?);
        key.map(Self).map_err(|_| FileError {
            path: path.to_owned(),
            why: "this is no private Ed25519 key in PEM; make one with openssl genpkey -algorithm ed25519".to_owned(),
        })
    }

    pub(super) fn sign(&self, octets: &[u8]) -> Signature {
        let Self(key) = self;
        Signature {
            key: HEXLOWER.encode(key.verifying_key().as_bytes()),
            ed25519: HEXLOWER.encode(&key.sign(octets).to_bytes()),
        }
    }
}

/// A key whose signatures are trusted.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct TrustedKey {
    /// The public key, in hexadecimal.
    pub key: String,
}

impl TrustedKey {
    /// Reads a public key in PEM, as `openssl pkey -pubout` writes it.
    ///
    /// # Errors
    /// A file that cannot be read, or is none of such a key.
    pub fn read(path: &Path) -> Result<Self, FileError> {
        let key = ed25519_dalek::VerifyingKey::from_public_key_pem(&files::text(path)?);
        key.map(|key| Self { key: HEXLOWER.encode(key.as_bytes()) }).map_err(|_| FileError {
            path: path.to_owned(),
            why: "this is no public Ed25519 key in PEM; write one with openssl pkey -in KEY -pubout".to_owned(),
        })
    }
}
