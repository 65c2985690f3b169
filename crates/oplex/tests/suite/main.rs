//! The core's tests, one binary.

mod codebook;
mod rules;
