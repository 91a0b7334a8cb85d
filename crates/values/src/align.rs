//! Where something stands in its room.

use jovrik_schema::named_value;

named_value! {
    /// Where something stands in its room.
    pub enum Align as "place" {
        /// At the start.
        Start = "start",
        /// In the middle.
        Middle = "middle",
        /// At the end.
        End = "end",
    }
}
