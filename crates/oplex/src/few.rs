//! A list that is short as a rule.

use crate::prelude::*;
use core::fmt;

/// A list of one takes no allocation, as one of none does; unlike others of its kind it is covariant, so that what borrows stays as easy
/// to pass on as a vector.
#[derive(Clone)]
pub(crate) enum Few<T> {
    One(T),
    Many(Vec<T>),
}

impl<T> Few<T> {
    pub(crate) const NONE: Self = Self::Many(Vec::new());

    /// Adds an item at a place.
    pub(crate) fn insert(&mut self, at: usize, item: T) {
        *self = match core::mem::replace(self, Self::NONE) {
            Self::Many(all) if all.is_empty() => Self::One(item),
            Self::One(one) if at == 0 => Self::Many(vec![item, one]),
            Self::One(one) => Self::Many(vec![one, item]),
            Self::Many(mut all) => {
                all.insert(at, item);
                Self::Many(all)
            }
        };
    }
}

impl<T> FromIterator<T> for Few<T> {
    fn from_iter<I: IntoIterator<Item = T>>(items: I) -> Self {
        let mut items = items.into_iter();
        match (items.next(), items.next()) {
            (None, _) => Self::NONE,
            (Some(one), None) => Self::One(one),
            (Some(one), Some(other)) => Self::Many([one, other].into_iter().chain(items).collect()),
        }
    }
}

impl<T> core::ops::Deref for Few<T> {
    type Target = [T];

    fn deref(&self) -> &[T] {
        match self {
            Self::One(one) => core::slice::from_ref(one),
            Self::Many(all) => all,
        }
    }
}

impl<T: fmt::Debug> fmt::Debug for Few<T> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        (**self).fmt(f)
    }
}

impl<T: PartialEq> PartialEq for Few<T> {
    fn eq(&self, other: &Self) -> bool {
        **self == **other
    }
}

impl<T: Eq> Eq for Few<T> {}
