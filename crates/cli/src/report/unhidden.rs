//! Characters that nobody sees, or that turn the order of those beside them, are shown as what they are: a name that looks like
//! another one does not pass for it (Unicode Technical Report 36, section 3).

use std::io::{self, Write};

use jovrik_core::check::hides;

/// Writes text with what hides in it as an escape, which TOML and JSON read as the character; what is no text passes as it is.
#[derive(Debug)]
pub struct Unhidden<W: Write>(W);

impl<W: Write> Unhidden<W> {
    /// Over another writer.
    pub fn new(inner: W) -> Self {
        Unhidden(inner)
    }
}

impl<W: Write> Write for Unhidden<W> {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        match std::str::from_utf8(bytes) {
            Ok(text) if !text.is_ascii() && text.chars().any(hides) => {
                let mut shown = String::with_capacity(text.len() + 16);
                for c in text.chars() {
                    match c {
                        c if !hides(c) => shown.push(c),
                        c if c > '\u{ffff}' => shown.push_str(&format!("\\U{:08x}", u32::from(c))),
                        c => shown.push_str(&format!("\\u{:04x}", u32::from(c))),
                    }
                }
                self.0.write_all(shown.as_bytes())?;
            }
            _ => self.0.write_all(bytes)?,
        }
        Ok(bytes.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        self.0.flush()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_hides_is_shown_and_the_rest_is_as_it_was() {
        let shown = |text: &[u8]| {
            let mut out = Vec::new();
            Unhidden::new(&mut out).write_all(text).expect("written");
            out
        };
        let text = "run \u{202e}gpj.sh\u{202c} a\u{200b}b \u{e0041}";
        assert_eq!(shown(text.as_bytes()), b"run \\u202egpj.sh\\u202c a\\u200bb \\U000e0041");
        for plain in ["Pegel \u{2191} \u{e9} \u{1b}[1m", "", "日本"] {
            assert_eq!(shown(plain.as_bytes()), plain.as_bytes());
        }
        assert_eq!(shown(b"\xe2\x80\xae\xff"), b"\xe2\x80\xae\xff", "no text");
    }
}
