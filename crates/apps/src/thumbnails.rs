//! Where small copies of pictures are kept, for all programs of a person (Thumbnail Managing Standard 0.9).

use std::fmt::Write;
use std::os::unix::ffi::OsStrExt;
use std::os::unix::fs::MetadataExt;
use std::path::{Path, PathBuf};

/// Where the small copy of a picture is kept, and what stands in it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ThumbnailPlace {
    /// Its file.
    pub file: PathBuf,
    /// The longer side that it may have, in pixels.
    pub side: u32,
    /// What must stand in it: names of texts, and texts. One that says otherwise is of another picture, or of an older one.
    pub texts: [(&'static str, String); 2],
}

/// The sizes that are kept, in pixels a side.
const SIZES: [(u32, &str); 4] = [(128, "normal"), (256, "large"), (512, "x-large"), (1024, "xx-large")];

/// The place of the small copy of a picture that is to be seen so large a side, in pixels. `cache` is the folder of caches
/// (`$XDG_CACHE_HOME`). `None` for a picture without an absolute path or that cannot be looked at, and for what is itself kept there.
pub fn thumbnail_place(cache: &Path, picture: &Path, side: u32) -> Option<ThumbnailPlace> {
    let folder = cache.join("thumbnails");
    if !picture.is_absolute() || picture.starts_with(&folder) {
        return None;
    }
    let changed = std::fs::metadata(picture).ok()?.mtime();
    let uri = uri(picture);
    let (side, size) = SIZES.into_iter().find(|(own, _)| *own >= side).unwrap_or(SIZES[SIZES.len() - 1]);
    let file = folder.join(size).join(format!("{:x}.png", md5::compute(&uri)));
    Some(ThumbnailPlace { file, side, texts: [("Thumb::URI", uri), ("Thumb::MTime", changed.to_string())] })
}

/// The address of a file (RFC 3986, RFC 8089): bytes that are not plain are written by their numbers.
fn uri(path: &Path) -> String {
    let mut uri = "file://".to_owned();
    for byte in path.as_os_str().as_bytes() {
        if byte.is_ascii_alphanumeric() || b"/-_.~!$&'()*+,;=:@".contains(byte) {
            uri.push(char::from(*byte));
        } else {
            // Writing to a text does not fail.
            let _ = write!(uri, "%{byte:02X}");
        }
    }
    uri
}

#[cfg(test)]
mod tests {
    use std::path::Path;

    use super::uri;

    #[test]
    fn a_file_is_named_by_the_sum_of_its_address() {
        let address = uri(Path::new("/srv/gauge house/pegel\u{f6}.png"));
        assert_eq!(address, "file:///srv/gauge%20house/pegel%C3%B6.png");
        // By md5sum.
        assert_eq!(format!("{:x}", md5::compute(address)), "93202b714458570ff4ac2dfaa406359b");
    }
}
