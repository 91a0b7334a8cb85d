//! A canvas as sixels, the picture format of terminals.

use icy_sixel::SixelImage;

use crate::Canvas;

/// A picture for a terminal that shows sixels; nothing when it cannot be made.
pub fn sixels(canvas: &Canvas) -> Option<String> {
    let (width, height) = (canvas.width() as usize, canvas.height() as usize);
    SixelImage::from_rgba(canvas.bytes().to_vec(), width, height).encode().ok()
}
