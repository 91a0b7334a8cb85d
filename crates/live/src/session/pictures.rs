//! Pictures of what is seen, kept in files.

use std::fs::OpenOptions;
use std::io::Write;
use std::os::unix::fs::OpenOptionsExt;
use std::path::{Path, PathBuf};

use jovrik_core::desktop::DesktopEvent;
use jovrik_values::PixelRect;
use jovrik_values::action::ScreenshotTarget;

use super::Session;
use crate::RequestError;
use crate::stage::x11::ClipboardContent;

impl Session {
    /// Keeps a picture of an area of the screen; what went wrong. Nothing that is there is written over.
    pub(super) fn keep_picture(&mut self, area: PixelRect, to: &ScreenshotTarget) -> Option<DesktopEvent> {
        let home = std::env::var_os("HOME").map(PathBuf::from).unwrap_or_default();
        let kept = self.picture(area).and_then(|bytes| {
            let path = match to {
                ScreenshotTarget::Clipboard => {
                    let copied = self
                        .stage
                        .copy(ClipboardContent::Picture(bytes))
                        .map_err(|error| RequestError::System(error.to_string()))?;
                    return copied.then_some(()).ok_or_else(|| RequestError::NotDone("it cannot be copied".to_owned()));
                }
                ScreenshotTarget::File(file) => home.join(file.strip_prefix("~/").unwrap_or(file)),
                ScreenshotTarget::Pictures => unused(&home),
            };
            // What is on a screen is nobody else's.
            let file = OpenOptions::new().write(true).create_new(true).mode(0o600).open(&path);
            file.and_then(|mut file| file.write_all(&bytes))
                .map_err(|error| RequestError::File(path.display().to_string(), error.to_string()))
        });
        tracing::info!(?to, ok = kept.is_ok(), "a picture");
        kept.err().map(|why| DesktopEvent::NotStarted(format!("no picture was kept: {why}")))
    }

    /// What is seen in an area, as PNG; why there is none.
    fn picture(&mut self, area: PixelRect) -> Result<Vec<u8>, RequestError> {
        let canvas = self.stage.pixels(area).map_err(|error| RequestError::System(error.to_string()))?;
        jovrik_draw::encode(&canvas).map_err(|error| RequestError::System(error.to_string()))
    }
}

/// A file of the moment's name among the person's pictures.
fn unused(home: &Path) -> PathBuf {
    let pictures = home.join("Pictures");
    let folder = if pictures.is_dir() { pictures } else { home.to_owned() };
    let name = jiff::Zoned::now().strftime("screen-%Y-%m-%d-%H%M%S").to_string();
    let mut names = std::iter::once(name.clone()).chain((2..100).map(|nth| format!("{name}-{nth}")));
    let free = names.find(|name| !folder.join(format!("{name}.png")).exists()).unwrap_or(name);
    folder.join(format!("{free}.png"))
}
