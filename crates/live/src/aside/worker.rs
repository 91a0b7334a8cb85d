//! Whoever draws aside: reads what is wanted on standard input, a line of JSON each, and answers on standard output.

use std::io::{BufRead, Write};
use std::path::Path;

use jovrik_apps::{ThumbnailPlace, thumbnail_place};
use jovrik_draw::{DrawnPicture, Job, JobKind, PictureError, Thumbnail};
use jovrik_text::limits;
use rustix::process::{Resource, Rlimit, setrlimit};
use serde::{Deserialize, Serialize};

/// The largest kept copy that is read, in bytes.
const MAX_COPY_BYTES: u64 = 8 * 1024 * 1024;

/// What an answer begins with, on a line; so many pixels of four bytes follow.
#[derive(Debug, Default, Serialize, Deserialize)]
pub(super) struct Answer {
    size: (u32, u32),
    at: (i64, i64),
    tiled: bool,
    why: Option<PictureError>,
}

impl Answer {
    /// A whole answer out of what came; an error where it is none.
    pub fn take(input: &mut Vec<u8>) -> Option<Result<Result<DrawnPicture, PictureError>, ()>> {
        let end = input.iter().take(4096).position(|byte| *byte == b'\n');
        let Some(end) = end else { return (input.len() >= 4096).then_some(Err(())) };
        let Ok(answer) = serde_json::from_slice::<Answer>(&input[..end]) else { return Some(Err(())) };
        let (w, h) = answer.size;
        let Some(length) = (w as usize).checked_mul(h as usize).and_then(|pixels| pixels.checked_mul(4)) else {
            return Some(Err(()));
        };
        if length > limits::ASIDE_BYTES {
            return Some(Err(()));
        }
        if input.len() < end + 1 + length {
            // Grown once, not again and again.
            input.reserve(end + 1 + length - input.len());
            return None;
        }
        let whole = std::mem::take(input);
        if whole.len() != end + 1 + length {
            return Some(Err(()));
        }
        if let Some(why) = answer.why {
            return Some(Ok(Err(why)));
        }
        let mut rgba = whole;
        rgba.drain(..=end);
        Some(DrawnPicture::of(answer.size, answer.at, answer.tiled, rgba).map(Ok).ok_or(()))
    }
}

/// Draws what is wanted, one after another, until nobody wants anything. `cache` is the folder of caches.
///
/// # Errors
///
/// When nobody hears the answers.
pub fn serve(cache: &Path, input: impl BufRead, mut output: impl Write) -> std::io::Result<()> {
    let most = Some(limits::ASIDE_BYTES as u64);
    let _ = setrlimit(Resource::As, Rlimit { current: most, maximum: most });
    // A picture that ends this process leaves no image of its memory behind.
    let _ = setrlimit(Resource::Core, Rlimit { current: Some(0), maximum: Some(0) });
    for line in input.lines() {
        let Ok(job) = serde_json::from_str::<Job>(&line?) else { continue };
        let drawn = match job.kind {
            JobKind::Small(_) => kept_or_made(cache, &job).and_then(|copy| job.draw_small(&copy)),
            JobKind::Fitted(_) | JobKind::Icon => job.draw(),
        };
        let answer = match &drawn {
            Ok(drawn) => Answer { size: drawn.size(), at: drawn.at(), tiled: drawn.tiled(), why: None },
            Err(why) => Answer { why: Some(why.clone()), ..Answer::default() },
        };
        serde_json::to_writer(&mut output, &answer)?;
        output.write_all(b"\n")?;
        if let Ok(drawn) = &drawn {
            output.write_all(drawn.rgba())?;
        }
        output.flush()?;
    }
    Ok(())
}

/// The copy that is kept, else a new one, which is kept for the next time as far as that can be.
fn kept_or_made(cache: &Path, job: &Job) -> Result<Thumbnail, PictureError> {
    let (file, side) = (job.file.as_path(), job.side());
    let Some(place) = thumbnail_place(cache, file, side) else { return Thumbnail::of(file, side) };
    let kept = jovrik_file::read_file(&place.file, MAX_COPY_BYTES).ok();
    if let Some(kept) = kept.and_then(|bytes| Thumbnail::decode(&bytes, &place.texts)) {
        return Ok(kept);
    }
    let made = Thumbnail::of(file, place.side)?;
    if let Err(error) = keep(&place, &made) {
        tracing::debug!(file = %place.file.display(), %error, "a small picture is not kept");
    }
    Ok(made)
}

/// Keeps a copy: nobody else may read it, and nobody sees half of it.
fn keep(place: &ThumbnailPlace, made: &Thumbnail) -> std::io::Result<()> {
    let bytes = made.encode(&place.texts).map_err(std::io::Error::other)?;
    jovrik_file::write_private(&place.file, &bytes)
}
