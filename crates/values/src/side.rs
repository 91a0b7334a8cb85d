//! The sides of a rectangle.

use jovrik_schema::named_value;

named_value! {
    /// A side.
    pub enum Side as "side" {
        /// Left.
        Left = "left",
        /// Right.
        Right = "right",
        /// Top.
        Top = "top",
        /// Bottom.
        Bottom = "bottom",
    }
}

impl Side {
    /// The other side.
    #[must_use]
    pub fn opposite(self) -> Side {
        match self {
            Side::Left => Side::Right,
            Side::Right => Side::Left,
            Side::Top => Side::Bottom,
            Side::Bottom => Side::Top,
        }
    }
}
