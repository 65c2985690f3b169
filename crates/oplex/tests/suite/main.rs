//! The core's tests, one binary.

mod codebook;
mod generate;
mod layouts;
mod plans;
mod rules;
