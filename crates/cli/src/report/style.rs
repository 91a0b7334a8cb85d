//! Meanings, and the terminal's colours for them.

use anstyle::{AnsiColor, Style};

/// What a piece of a report means.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Meaning {
    /// A heading.
    Heading,
    /// An error.
    Error,
    /// A warning.
    Warning,
    /// A place in a file.
    Place,
    /// What one can type.
    Type,
    /// What is second.
    Second,
    /// What is done.
    Done,
}

impl Meaning {
    fn style(self) -> Style {
        let plain = Style::new();
        let colour = |colour: AnsiColor| plain.fg_color(Some(colour.into()));
        match self {
            Meaning::Heading => plain.bold(),
            Meaning::Error => colour(AnsiColor::Red),
            Meaning::Warning => colour(AnsiColor::Yellow),
            Meaning::Place => colour(AnsiColor::Blue),
            Meaning::Type => colour(AnsiColor::Cyan),
            Meaning::Second => plain.dimmed(),
            Meaning::Done => colour(AnsiColor::Green),
        }
    }

    /// A text in the colour of this meaning; a stream that is no terminal takes the colour out.
    pub fn paint(self, text: &str) -> String {
        if text.is_empty() {
            return String::new();
        }
        let style = self.style();
        format!("{style}{text}{style:#}")
    }
}
