//! What programs that start later find on the server: X resources with the palette, the faces, the pointer's picture; and the
//! pointer over the root window.

use jovrik_core::colour::{Format, export};
use jovrik_core::rice::Rice;
use x11rb::connection::Connection;
use x11rb::protocol::xproto::{AtomEnum, ChangeWindowAttributesAux, ConnectionExt, PropMode};
use x11rb::resource_manager::Database;
use x11rb::wrapper::ConnectionExt as _;

use super::X11;
use crate::Error;

/// The most of other programs' resources that is taken along, in units of four bytes.
const MAX_RESOURCES_WORDS: u32 = 1 << 16;

/// The resources that a rice asks for, on a screen of a scale: a line each.
fn own(rice: &Rice, scale: f64) -> Vec<String> {
    let palette = export(&rice.palette.name, &rice.palette.current, Format::Xresources);
    // Colours of terminals alone: what is said of everything with a foreground makes a clock's hands as dark as its face.
    let of_terminals = |line: &str| match line.strip_prefix('*') {
        Some(rest) => format!("*VT100*{rest}"),
        None => line.to_owned(),
    };
    let mut lines: Vec<String> = palette.lines().filter(|line| !line.starts_with('!')).map(of_terminals).collect();
    let line = |text: &str| text.chars().filter(|c| !c.is_control()).collect::<String>();
    let cursor = &rice.toolkit.cursor;
    let size = (cursor.size.0 as f64 * scale).round();
    lines.push(format!("*VT100*faceName: {}", line(&rice.r#type.mono)));
    lines.push(format!("*VT100*faceSize: {}", rice.r#type.size.0));
    lines.push(format!("Xcursor.theme: {}", line(&cursor.name)));
    lines.push(format!("Xcursor.size: {size}"));
    lines.push(format!("Xft.dpi: {}", (96.0 * scale).round()));
    lines
}

/// What stands before the colon of a line; nothing in a comment.
fn key(line: &str) -> Option<&str> {
    let line = line.trim_start();
    (!line.starts_with(['!', '#'])).then(|| line.split_once(':').map(|(key, _)| key.trim())).flatten()
}

/// The resources of others with ours after them, which win where both say the same.
fn merged(others: &str, own: &[String]) -> String {
    let said: Vec<&str> = own.iter().filter_map(|line| key(line)).collect();
    let others = others.lines().filter(|line| !line.trim().is_empty() && !key(line).is_some_and(|key| said.contains(&key)));
    others.chain(own.iter().map(String::as_str)).map(|line| format!("{line}\n")).collect()
}

impl X11 {
    /// Puts on the server what programs that start from now on find there. `defaults` is what they would read if nothing was.
    pub fn dress(&mut self, rice: &Rice, scale: f64, defaults: &str) -> Result<(), Error> {
        if self.server.guest {
            return Ok(());
        }
        let lines = own(rice, scale);
        if self.resources == lines {
            return Ok(());
        }
        let c = &self.server.connection;
        let Some(root) = c.setup().roots.first().map(|screen| screen.root) else { return Ok(()) };
        let (name, kind) = (AtomEnum::RESOURCE_MANAGER, AtomEnum::STRING);
        let before =
            c.get_property(false, root, name, kind, 0, MAX_RESOURCES_WORDS)?.reply().map(|reply| reply.value).unwrap_or_default();
        let before = String::from_utf8_lossy(&before).into_owned();
        let text = merged(if before.is_empty() { defaults } else { &before }, &lines);
        c.change_property8(PropMode::REPLACE, root, name, kind, text.as_bytes())?;
        let database = Database::new_from_data(text.as_bytes());
        if let Ok(handle) = x11rb::cursor::Handle::new(c, 0, &database)?.reply()
            && let Ok(cursor) = handle.load_cursor(c, "left_ptr")
        {
            c.change_window_attributes(self.server.root, &ChangeWindowAttributesAux::new().cursor(cursor))?.ignore_error();
            c.free_cursor(cursor)?.ignore_error();
        }
        self.resources = lines;
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn resources_of_others_stay_and_ours_win() {
        let own = ["*color1: #cc0000".to_owned(), "Xcursor.size: 24".to_owned()];
        let text = merged("! mine\n*color1: red\n\nXTerm*color1: blue\n Xcursor.size : 9\n", &own);
        assert_eq!(text, "! mine\nXTerm*color1: blue\n*color1: #cc0000\nXcursor.size: 24\n");
        assert_eq!(merged(&text, &own), text, "again it is the same");
    }
}
