//! A mixer that has no sound: its state is a file, which whoever follows it is told of.

use std::io::Write;
use std::mem::MaybeUninit;
use std::path::{Path, PathBuf};

use rustix::fs::inotify;
use serde::{Deserialize, Serialize};

/// How loud it is.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Mixer {
    /// From 0 to 100.
    pub percent: u8,
    /// `on` or `off`.
    pub state: String,
}

impl Default for Mixer {
    fn default() -> Self {
        Mixer { percent: 64, state: "on".to_owned() }
    }
}

impl Mixer {
    /// The file in a runtime folder.
    pub fn path(runtime: &Path) -> PathBuf {
        runtime.join("jovrik/mixer.json")
    }

    /// Reads it; what cannot be read is as it is at the beginning.
    pub fn read(path: &Path) -> Mixer {
        let text = std::fs::read_to_string(path).unwrap_or_default();
        let mixer: Mixer = serde_json::from_str(&text).unwrap_or_default();
        Mixer { percent: mixer.percent.min(100), ..mixer }
    }

    /// Writes it whole.
    pub fn write(&self, path: &Path) -> std::io::Result<()> {
        if let Some(folder) = path.parent() {
            std::fs::create_dir_all(folder)?;
        }
        let new = path.with_extension("new");
        std::fs::write(&new, serde_json::to_vec(self)?)?;
        std::fs::rename(new, path)
    }

    /// Does what is asked: `up [N]`, `down [N]`, `set N`, `toggle`; nothing when it is none of these.
    #[must_use]
    pub fn told(&self, words: &[&str]) -> Option<Mixer> {
        let to = |percent: i32| Mixer { percent: percent.clamp(0, 100) as u8, ..self.clone() };
        let now = i32::from(self.percent);
        let step = |word: Option<&&str>| word.map_or(Some(5), |word| word.parse::<u8>().ok().map(i32::from));
        Some(match words {
            ["up", rest @ ..] if rest.len() < 2 => to(now + step(rest.first())?),
            ["down", rest @ ..] if rest.len() < 2 => to(now - step(rest.first())?),
            ["set", percent] => to(percent.parse::<u8>().ok()?.into()),
            ["toggle"] => {
                let state = if self.state == "on" { "off" } else { "on" };
                Mixer { state: state.to_owned(), ..self.clone() }
            }
            _ => return None,
        })
    }
}

/// Prints the state now and after every change, a line of JSON each, until nobody listens.
pub fn follow(path: &Path, out: &mut dyn Write) -> std::io::Result<()> {
    let folder = path.parent().unwrap_or(Path::new("."));
    std::fs::create_dir_all(folder)?;
    let queue = inotify::init(inotify::CreateFlags::CLOEXEC)?;
    inotify::add_watch(&queue, folder, inotify::WatchFlags::MOVED_TO | inotify::WatchFlags::CLOSE_WRITE)?;
    let mut told = None;
    let mut buffer = [MaybeUninit::uninit(); 4096];
    let mut events = inotify::Reader::new(&queue, &mut buffer);
    loop {
        let now = Mixer::read(path);
        if told.as_ref() != Some(&now) {
            writeln!(out, "{}", serde_json::to_string(&now)?)?;
            out.flush()?;
            told = Some(now);
        }
        events.next()?;
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn it_is_told_in_words_and_keeps_within_its_bounds() {
        let mixer = Mixer::default();
        let percent = |words: &[&str]| mixer.told(words).map(|mixer| mixer.percent);
        assert_eq!((percent(&["up"]), percent(&["down", "10"]), percent(&["set", "7"])), (Some(69), Some(54), Some(7)));
        assert_eq!((percent(&["up", "200"]), percent(&["down", "99"])), (Some(100), Some(0)));
        assert_eq!(mixer.told(&["toggle"]).map(|mixer| mixer.state).as_deref(), Some("off"));
        for bad in [&["up", "much"][..], &["set"], &["louder"], &[], &["up", "1", "2"]] {
            assert_eq!(mixer.told(bad), None, "{bad:?}");
        }
    }

    #[test]
    fn what_was_written_is_read_and_rubbish_is_the_beginning() {
        let folder = tempfile::tempdir().expect("a folder");
        let path = Mixer::path(folder.path());
        assert_eq!(Mixer::read(&path), Mixer::default());
        let quiet = Mixer { percent: 3, state: "off".to_owned() };
        quiet.write(&path).expect("written");
        assert_eq!(Mixer::read(&path), quiet);
        std::fs::write(&path, "rubbish").expect("written");
        assert_eq!(Mixer::read(&path), Mixer::default());
    }
}
