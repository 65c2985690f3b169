//! Who is trusted to say whose a certificate is.

use std::path::Path;
use std::sync::Arc;

use rustls::pki_types::CertificateDer;
use rustls::pki_types::pem::PemObject as _;
use rustls::{ClientConfig, RootCertStore};
use ureq::tls::{Certificate, RootCerts};

use crate::files::{FileError, reason};

/// Who is trusted to say whose a certificate is: the common roots, or those of a file.
#[derive(Debug, Clone, Default)]
pub struct Roots {
    /// `None` for the common ones.
    own: Option<Vec<CertificateDer<'static>>>,
}

impl Roots {
    /// The certificates in a file (PEM), as a site has them that signs its own.
    ///
    /// # Errors
    /// A file that cannot be read, and one without a certificate.
    pub fn read(path: &Path) -> Result<Self, FileError> {
        let wrong = |why: String| FileError { path: path.to_owned(), why };
        let octets = std::fs::read(path).map_err(|error| wrong(reason(&error)))?;
        let read: Result<Vec<_>, _> = CertificateDer::pem_slice_iter(&octets).collect();
        let own = read.map_err(|error| wrong(format!("not a certificate in PEM: {error}")))?;
        let usable = own.iter().all(|root| RootCertStore::empty().add(root.clone()).is_ok());
        match own.is_empty() || !usable {
            true => Err(wrong("it has no certificate of an issuer in PEM (-----BEGIN CERTIFICATE-----)".to_owned())),
            false => Ok(Self { own: Some(own) }),
        }
    }

    /// How TLS is spoken with a server that is to speak this protocol.
    pub(super) fn config(&self, protocol: &str) -> Result<Arc<ClientConfig>, rustls::Error> {
        let mut roots = RootCertStore::empty();
        match &self.own {
            Some(own) => drop(roots.add_parsable_certificates(own.iter().cloned())),
            None => roots.extend(webpki_roots::TLS_SERVER_ROOTS.iter().cloned()),
        }
        let provider = Arc::new(rustls::crypto::ring::default_provider());
        let builder = ClientConfig::builder_with_provider(provider).with_safe_default_protocol_versions()?;
        let mut config = builder.with_root_certificates(roots).with_no_client_auth();
        config.alpn_protocols = vec![protocol.as_bytes().to_vec()];
        Ok(Arc::new(config))
    }

    /// The same for `https`.
    pub(super) fn of_web(&self) -> RootCerts {
        match &self.own {
            None => RootCerts::WebPki,
            Some(own) => RootCerts::new_with_certs(
                &own.iter().map(|root| Certificate::from_der(root).to_owned()).collect::<Vec<_>>(),
            ),
        }
    }
}
