//! What is made on first use. The standard library's cells for this need its locks; this one needs an allocator, so
//! the crate also builds without `std`.

use alloc::boxed::Box;
use core::fmt;

use once_cell::race::OnceBox;

/// A cell that is filled once and then shared. Of two threads that fill it at the same moment one loses its work.
pub(crate) struct Once<T>(OnceBox<T>);

impl<T> Once<T> {
    pub(crate) const fn new() -> Self {
        Self(OnceBox::new())
    }

    #[inline]
    pub(crate) fn get(&self) -> Option<&T> {
        self.0.get()
    }

    #[inline]
    pub(crate) fn get_or_init(&self, make: impl FnOnce() -> T) -> &T {
        self.0.get_or_init(|| Box::new(make()))
    }
}

impl<T> From<T> for Once<T> {
    fn from(value: T) -> Self {
        Self(OnceBox::with_value(Box::new(value)))
    }
}

impl<T> Default for Once<T> {
    fn default() -> Self {
        Self::new()
    }
}

impl<T: Clone> Clone for Once<T> {
    fn clone(&self) -> Self {
        self.get().cloned().map_or_else(Self::new, Self::from)
    }
}

impl<T: fmt::Debug> fmt::Debug for Once<T> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        self.get().fmt(f)
    }
}
