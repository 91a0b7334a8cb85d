//! The pictures of items in the tray: their own pixels, one of the icon theme, or a drawing that stands in.

use std::path::{Path, PathBuf};

use jovrik_core::rice::{Icon, IconRef};
use jovrik_draw::{Brush, read_picture};

use crate::items::Item;

/// A picture that an item brings along, in a folder of its own.
fn brought(name: &str, own: &str) -> Option<PathBuf> {
    // A name is no way out of the folder.
    let fits = !name.is_empty() && !name.contains(['/', '\0']) && Path::new(own).is_absolute();
    let path = Path::new(own).join(format!("{name}.png"));
    (fits && path.is_file()).then_some(path)
}

/// The picture of an item: its own pixels, one of the icon theme, or a drawing that stands in.
pub fn picture_of(brush: &mut Brush, item: &Item) -> IconRef {
    if let Some((width, height, rgba)) = &item.pixels {
        let name = format!("\u{0}{}{}", item.key.bus, item.key.path);
        brush.pictures.insert(&name, (*width, *height), rgba.clone());
        return IconRef::Picture(name);
    }
    let (name, own) = &item.icon;
    let Some(path) = brought(name, own) else { return IconRef::Themed(name.clone(), Icon::More) };
    // It lies outside the rice, so it is read by itself and held like one that came over the bus.
    let name = format!("\u{0}{}", path.display());
    if !brush.pictures.holds(&name) {
        let Ok(picture) = read_picture(&path) else { return IconRef::Drawn(Icon::More) };
        brush.pictures.insert(&name, picture.dimensions(), picture.into_raw());
    }
    IconRef::Picture(name)
}
