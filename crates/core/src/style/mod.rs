//! Styles: one cascade for everything drawn.

mod cascade;
mod contrast;
mod drawn;
mod element;

pub use cascade::{Kin, Said, Style, resolve, said};
pub use contrast::{LEAST, LEAST_LARGE, contrast, least, under, worst};
pub use drawn::{Drawn, Kind, Meets, each_drawn};
pub use element::{ELEMENTS, Element, Instances, Place, State, Unknown, each_element, place};
