//! Styles: one cascade for everything drawn.

mod cascade;
mod contrast;
mod drawn;
mod element;

pub use cascade::{ComputedStyle, MatchedRule, StyledElement, resolve, said};
pub use contrast::{MIN_LARGE_TEXT_CONTRAST, MIN_TEXT_CONTRAST, contrast, least, under, worst};
pub use drawn::{ElementRef, InkContrast, InkedElement, each_drawn};
pub use element::{ELEMENTS, Element, ElementPath, Instances, UnknownElement, each_element, place};
