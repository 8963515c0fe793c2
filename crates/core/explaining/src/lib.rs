//! What is measured, put together and said. [`outcomes`] reads every outcome of the catalogue off a passage before and after;
//! [`report`] gathers numbers and turns them into sentences; [`bend`] measures an outcome over the whole range of one parameter;
//! [`fan`] sets a few of its values side by side.

pub mod bend;
pub mod fan;
pub mod outcomes;
pub mod report;
