//! What the standard library's prelude has of `alloc`, for the rooms that build without `std`.

pub(crate) use alloc::borrow::ToOwned;
pub(crate) use alloc::boxed::Box;
pub(crate) use alloc::string::{String, ToString};
pub(crate) use alloc::vec::Vec;
pub(crate) use alloc::{format, vec};
