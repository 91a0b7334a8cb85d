//! Another picture behind everything, and the palette that it gives.

use jovrik_core::check::FROM_PICTURE as NAME;
use jovrik_core::colour::palette_of;
use jovrik_core::desktop::DesktopEvent;
use jovrik_core::rice::Palette;
use jovrik_draw::{ImageCache, main_colours};
use jovrik_toml::quoted;
use jovrik_values::action::BackdropTarget;

use super::{Session, daytime};
use crate::RequestError;

impl Session {
    /// Shows another picture, from now on on this computer; what there is to tell.
    pub(super) fn other_backdrop(&mut self, to: BackdropTarget) -> Option<DesktopEvent> {
        let rice = self.desktop.desk().rice().clone();
        let (path, palette) = match to {
            BackdropTarget::Next | BackdropTarget::Prev => {
                let folder = rice.backdrop.picture.as_ref().and_then(|pictures| pictures.0.first().map(|(_, path)| path.clone()));
                let folder = folder.filter(|path| self.options.folder.join(path).is_dir());
                if folder.is_none() {
                    let why = "backdrop.picture is no folder of pictures: there is no next one";
                    return Some(DesktopEvent::NotStarted(why.to_owned()));
                }
                self.turned += if to == BackdropTarget::Next { 1 } else { -1 };
                if let Err(why) = (self.options.pick)(Vec::new(), self.turned) {
                    tracing::warn!(%why, "it is not remembered");
                }
                return Some(daytime::daytime(&rice, self.turned));
            }
            BackdropTarget::Picture { path, palette } => (path, palette),
        };
        if let Some(why) = ImageCache::of(&self.options.folder).trouble(&path) {
            return Some(DesktopEvent::NotStarted(format!("{path}: {why}")));
        }
        let mut set = vec![("backdrop.picture".to_owned(), quoted(&path))];
        if palette {
            match self.palette_of(&path) {
                Ok(palette) => {
                    let role =
                        |role: &&str| palette.role(role).map(|colour| (format!("palette.{NAME}.{role}"), quoted(&colour.hex())));
                    set.extend(Palette::ROLES.iter().filter_map(role));
                    set.push(("palette.use".to_owned(), quoted(NAME)));
                }
                Err(why) => return Some(DesktopEvent::NotStarted(why.to_string())),
            }
        }
        Some(self.pick(set))
    }

    fn palette_of(&self, path: &str) -> Result<Palette, RequestError> {
        let file = ImageCache::of(&self.options.folder).file(path);
        let file = file.map_err(|why| RequestError::File(path.to_owned(), why.to_string()))?;
        let found = main_colours(&file).map_err(|why| RequestError::File(path.to_owned(), why.to_string()))?;
        Ok(palette_of(&found, None))
    }
}
