//! A palette as other programs read it.

use jovrik_schema::Colour;

use crate::rice::Palette;

/// A way to write a palette.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Format {
    /// Custom properties of CSS.
    Css,
    /// A JSON object.
    Json,
    /// X resources that terminals read.
    Xresources,
    /// The palette file that painting programs share.
    Gpl,
    /// Escape sequences that recolour the terminal they are written to.
    Terminal,
}

/// The 16 colours of terminals: those of the palette, else those that fit its roles.
pub fn terminal_colours(palette: &Palette) -> [Colour; 16] {
    if let Ok(own) = <[Colour; 16]>::try_from(palette.term.0.clone()) {
        return own;
    }
    let Palette { raise, line, muted, ink, accent, calm, good, warn, alert, .. } = palette.clone();
    // Magenta lies between red and blue: the hue between alert and calm, as light as calm.
    let ([light, chroma, blue, _], [_, _, red, _]) = (calm.to_oklch(), alert.to_oklch());
    let hue = (blue + (1.0 + red - blue) / 2.0).rem_euclid(1.0);
    let magenta = Colour::of_oklch([light, chroma.max(0.08), hue, 1.0]);
    [raise, alert, good, warn, calm, magenta, accent, muted, line, alert, good, warn, calm, magenta, accent, ink]
}

/// Writes a palette of a name.
pub fn export(name: &str, palette: &Palette, format: Format) -> String {
    let roles = || Palette::ROLES.iter().filter_map(|role| Some((*role, palette.role(role)?)));
    let lines = |line: &dyn Fn(&str, Colour) -> String| roles().map(|(role, colour)| line(role, colour)).collect::<String>();
    match format {
        Format::Css => {
            format!("/* {name} */\n:root {{\n{}}}\n", lines(&|role, colour| format!("  --{role}: {};\n", colour.hex())))
        }
        Format::Json => {
            let mut object: serde_json::Map<String, serde_json::Value> =
                roles().map(|(role, colour)| (role.to_owned(), colour.hex().into())).collect();
            let term: Vec<String> = terminal_colours(palette).iter().map(|colour| colour.hex()).collect();
            object.insert("term".to_owned(), term.into());
            let named = serde_json::json!({ "name": name, "colours": object });
            format!("{named:#}\n")
        }
        Format::Xresources => {
            let mut text = format!(
                "! {name}\n*background: {}\n*foreground: {}\n*cursorColor: {}\n",
                palette.paper.hex(),
                palette.ink.hex(),
                palette.accent.hex()
            );
            for (nth, colour) in terminal_colours(palette).iter().enumerate() {
                text.push_str(&format!("*color{nth}: {}\n", colour.hex()));
            }
            text
        }
        Format::Gpl => {
            let line = |role: &str, colour: Colour| format!("{:3} {:3} {:3}\t{role}\n", colour.r, colour.g, colour.b);
            format!("GIMP Palette\nName: {name}\nColumns: {}\n#\n{}", Palette::ROLES.len(), lines(&line))
        }
        Format::Terminal => {
            // XTerm Control Sequences: OSC 4 sets a colour by number, OSC 10, 11 and 12 text, ground and cursor.
            let rgb = |colour: Colour| format!("rgb:{:02x}/{:02x}/{:02x}", colour.r, colour.g, colour.b);
            let mut text = String::new();
            for (nth, colour) in terminal_colours(palette).iter().enumerate() {
                text.push_str(&format!("\x1b]4;{nth};{}\x1b\\", rgb(*colour)));
            }
            for (number, colour) in [(10, palette.ink), (11, palette.paper), (12, palette.accent)] {
                text.push_str(&format!("\x1b]{number};{}\x1b\\", rgb(colour)));
            }
            text
        }
    }
}
