//! Drawings in characters, with the colours of a palette: `@{role}` goes on in the colour of a role.

use super::layout::ColouredText;
use crate::rice::Palette;

/// A drawing: its lines, in pieces of one colour.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Art(pub Vec<Vec<ColouredText>>);

/// Why a text is no drawing.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum ArtError {
    /// A role that no palette has.
    #[error("line {line}: there is no role {role}")]
    Role {
        /// The line, from 1.
        line: usize,
        /// What stands there.
        role: String,
    },
    /// It would fill a screen.
    #[error("it has more than {} lines", Art::MAX_LINES)]
    Long,
}

impl Art {
    /// The most lines that a drawing has.
    pub const MAX_LINES: usize = 60;

    /// Reads a drawing. What begins in one line goes on in the next.
    ///
    /// # Errors
    /// Where it names a role that there is not, or has too many lines.
    pub fn parse(text: &str) -> Result<Art, ArtError> {
        let mut lines = Vec::new();
        let mut role = "";
        for (nth, line) in text.lines().enumerate() {
            if nth >= Self::MAX_LINES {
                return Err(ArtError::Long);
            }
            let mut pieces: Vec<ColouredText> = Vec::new();
            let mut rest = line;
            loop {
                let (before, after) = rest.split_once("@{").unwrap_or((rest, ""));
                let (own, more) = (rest.len() > before.len()).then(|| after.split_once('}')).flatten().unwrap_or(("", ""));
                let ends = rest.len() == before.len() || !after.contains('}');
                let text: String = if ends { rest } else { before }.chars().filter(|c| !c.is_control()).collect();
                if !text.is_empty() {
                    pieces.push(ColouredText { role, text });
                }
                if ends {
                    break;
                }
                role = match own {
                    "" => "",
                    own => Palette::ROLES
                        .iter()
                        .find(|role| **role == own)
                        .ok_or_else(|| ArtError::Role { line: nth + 1, role: own.to_owned() })?,
                };
                rest = more;
            }
            lines.push(pieces);
        }
        Ok(Art(lines))
    }
}
