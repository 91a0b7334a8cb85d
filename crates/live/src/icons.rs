//! The pictures of items in the tray: their own pixels, one of the icon themes, or a drawing that stands in.

use std::path::PathBuf;

use jovrik_core::rice::{Icon, IconRef};
use jovrik_draw::{Brush, read_picture};

use crate::items::Item;

/// A picture of an icon theme by its name (Icon Theme Specification): a whole path, or a PNG of `hicolor` of a size
/// near 16, in the folder of its own or those of the computer.
fn themed(name: &str, own: &str) -> Option<PathBuf> {
    if name.is_empty() {
        return None;
    }
    let whole = PathBuf::from(name);
    if whole.is_absolute() {
        return whole.is_file().then_some(whole);
    }
    // A name is no way out of the folder.
    if name.contains('/') || name.contains('\0') {
        return None;
    }
    let file = format!("{name}.png");
    let data = std::env::var("XDG_DATA_DIRS").unwrap_or_default();
    let data = if data.is_empty() { "/usr/local/share:/usr/share".to_owned() } else { data };
    let mut folders: Vec<PathBuf> = vec![PathBuf::from(own)];
    for place in data.split(':').map(PathBuf::from) {
        for size in ["16x16", "22x22", "24x24", "32x32", "48x48"] {
            for kind in ["apps", "status", "devices", "actions", "categories", "places", "mimetypes"] {
                folders.push(place.join("icons/hicolor").join(size).join(kind));
            }
        }
        folders.push(place.join("pixmaps"));
    }
    folders.into_iter().map(|folder| folder.join(&file)).find(|path| path.is_absolute() && path.is_file())
}

/// The picture of an item: its own pixels, one of the icon themes, or a drawing that stands in.
pub fn picture_of(brush: &mut Brush, item: &Item) -> IconRef {
    if let Some((width, height, rgba)) = &item.pixels {
        let name = format!("\u{0}{}{}", item.key.bus, item.key.path);
        brush.pictures.insert(&name, (*width, *height), rgba.clone());
        return IconRef::Picture(name);
    }
    let (name, own) = &item.icon;
    let Some(path) = themed(name, own) else { return IconRef::Drawn(Icon::More) };
    // It lies outside the rice, so it is read by itself and held like one that came over the bus.
    let name = format!("\u{0}{}", path.display());
    if !brush.pictures.holds(&name) {
        let Ok(picture) = read_picture(&path) else { return IconRef::Drawn(Icon::More) };
        brush.pictures.insert(&name, picture.dimensions(), picture.into_raw());
    }
    IconRef::Picture(name)
}
