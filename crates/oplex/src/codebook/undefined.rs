//! Codes that no codebook defines: who assigns them, and how their octets are looked at all the same.

use crate::prelude::*;
use alloc::sync::Arc;

use super::definition::{Definition, Sender, Status};
use super::error::Unknown;
use super::id::OptionId;
use super::{Codebook, Text};
use crate::family::Protocol;
use crate::layout::Layout;

impl Codebook {
    /// The option of this id or name; for a code of DHCP's own without a definition, one of any octets, whose summary says
    /// who assigns such codes.
    ///
    /// ```
    /// use oplex::codebook::{Codebook, Status};
    ///
    /// let codebook = Codebook::standard();
    /// assert!(codebook.find("v6:65000").is_err());
    /// let option = codebook.find_or_undefined("v6:65000")?;
    /// assert_eq!((option.code, option.status), (65000, Status::Undefined));
    /// assert_eq!(&*option.reference, "RFC 8415, section 24");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// An unknown name or book, or a code that the protocol cannot have.
    pub fn find_or_undefined(&self, query: &str) -> Result<Arc<Definition>, Unknown> {
        if let Some(known) = self.known(query) {
            return Ok(Arc::clone(known));
        }
        let id = query.parse::<OptionId>().ok();
        id.and_then(|id| self.undefined(&id)).map(Arc::new).ok_or_else(|| self.unknown(query))
    }

    /// The option of a code that no codebook defines.
    fn undefined(&self, id: &OptionId) -> Option<Definition> {
        let (who, reference) = self.assigner(id)?;
        let layout = Layout::parse("bytes*").ok()?;
        let mut undefined = Definition::new(id.book(), id.code(), &format!("undefined-{}", id.code()), layout);
        let text = id.to_string();
        undefined.prefix = Text::from(text[..=text.rfind([':', '/'])?].to_owned()).into();
        undefined.summary = format!("No codebook defines it; {who}").into();
        undefined.reference = reference.into();
        (undefined.status, undefined.sent_by) = (Status::Undefined, Sender::Both);
        Some(undefined)
    }

    /// Who assigns the code, in words, and where that is said.
    pub(crate) fn assigner(&self, id: &OptionId) -> Option<(String, String)> {
        let (who, reference) = match (id.outer(), Protocol::named(id.book())?) {
            (None, Protocol::V4) => ("IANA assigns such codes to options of DHCPv4.", "RFC 2939, section 3"),
            (None, Protocol::V6) => ("IANA assigns such codes to options of DHCPv6.", "RFC 8415, section 24"),
            (None, Protocol::Ra) => {
                ("IANA assigns such types to options of Neighbor Discovery.", "RFC 4861, section 9")
            }
            (Some(outer), _) => {
                let outer = self.get(&outer)?;
                let text = match outer.id().to_string().as_str() {
                    "v4:43" | "v4:124" | "v4:125" | "v6:16" | "v6:17" => {
                        "the vendor does, and its codebook can be named (--codebook FILE).".to_owned()
                    }
                    label => format!("the RFCs about {label} assign such codes."),
                };
                return (id.code() <= 255 || outer.book() == "v6").then(|| (text, outer.reference.to_string()));
            }
        };
        let most = if id.book() == "v6" { u16::MAX } else { 255 };
        (id.code() <= most).then(|| (who.to_owned(), reference.to_owned()))
    }
}
