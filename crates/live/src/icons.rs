//! The pictures of items in the tray: their own pixels, one of the icon theme, or a drawing that stands in.

use std::path::{Path, PathBuf};

use jovrik_draw::Brush;
use jovrik_values::{Icon, IconRef};

use crate::status_notifier::StatusNotifierItem;

/// A picture that an item brings along, in a folder of its own.
fn brought(name: &str, own: &str) -> Option<PathBuf> {
    // A name is no way out of the folder.
    let fits = !name.is_empty() && !name.contains(['/', '\0']) && Path::new(own).is_absolute();
    fits.then(|| Path::new(own).join(format!("{name}.png")))
}

/// What the names begin with under which pictures of items are kept.
pub const HELD: &str = "\0tray/";

/// The picture of an item: its own pixels, one that it brings along, one of the icon theme, or a drawing that stands in.
pub fn picture_of(brush: &mut Brush, item: &StatusNotifierItem) -> IconRef {
    if let Some((width, height, rgba)) = &item.pixels {
        let name = format!("{HELD}{}{}", item.key.bus, item.key.path);
        brush.pictures.insert(&name, (*width, *height), rgba.clone());
        return IconRef::Picture(name);
    }
    let (name, own) = &item.icon;
    let name = match brought(name, own) {
        Some(path) => path.display().to_string(),
        None => name.clone(),
    };
    IconRef::Themed(name, Icon::More)
}
