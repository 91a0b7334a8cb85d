//! What pictures say besides their picture: cut out before they leave the house.

/// The most that is looked at of one picture's structure: so many chunks, segments or blocks.
const MAX_PICTURE_CHUNKS: usize = 100_000;

/// A picture without what is said of it (texts, times, places, cameras, thumbnails, what is put behind its end), where it is one whose form is
/// known and sound; nothing where it is none, or says nothing.
///
/// PNG (W3C, section 11), JPEG (ITU T.81, annex B), GIF89a, WebP (RFC 9649).
pub(crate) fn without(bytes: &[u8]) -> Option<Vec<u8>> {
    let cut = png(bytes).or_else(|| jpeg(bytes)).or_else(|| gif(bytes)).or_else(|| webp(bytes))?;
    (cut != bytes).then_some(cut)
}

/// Whether bytes are a picture whose form is known.
pub(crate) fn is_picture(bytes: &[u8]) -> bool {
    png(bytes).or_else(|| jpeg(bytes)).or_else(|| gif(bytes)).or_else(|| webp(bytes)).is_some()
}

fn number(bytes: &[u8], at: usize, len: usize) -> Option<usize> {
    Some(bytes.get(at..at + len)?.iter().fold(0, |number, byte| number << 8 | usize::from(*byte)))
}

fn png(bytes: &[u8]) -> Option<Vec<u8>> {
    const HEAD: &[u8] = b"\x89PNG\r\n\x1a\n";
    const KEPT: [&[u8]; 15] = [
        b"IHDR", b"PLTE", b"IDAT", b"IEND", b"tRNS", b"gAMA", b"cHRM", b"sRGB", b"iCCP", b"sBIT", b"bKGD", b"pHYs", b"acTL",
        b"fcTL", b"fdAT",
    ];
    let mut kept = bytes.strip_prefix(HEAD).map(|_| HEAD.to_vec())?;
    let mut at = HEAD.len();
    for _ in 0..MAX_PICTURE_CHUNKS {
        let len = number(bytes, at, 4)?;
        let chunk = bytes.get(at..at.checked_add(len)?.checked_add(12)?)?;
        let kind = &chunk[4..8];
        if KEPT.contains(&kind) {
            kept.extend_from_slice(chunk);
        }
        if kind == b"IEND" {
            return Some(kept);
        }
        at += chunk.len();
    }
    None
}

fn jpeg(bytes: &[u8]) -> Option<Vec<u8>> {
    let mut kept = bytes.strip_prefix(b"\xff\xd8").map(|_| bytes[..2].to_vec())?;
    let mut at = 2;
    for _ in 0..MAX_PICTURE_CHUNKS {
        let marker = *bytes.get(at + 1).filter(|_| bytes[at] == 0xff)?;
        if marker == 0xff {
            at += 1;
            continue;
        }
        if marker == 0xd9 {
            kept.extend_from_slice(&[0xff, 0xd9]);
            return Some(kept);
        }
        let len = number(bytes, at + 2, 2).filter(|len| *len >= 2)?;
        let segment = bytes.get(at..at + 2 + len)?;
        at += segment.len();
        // APP0 is the form, APP2 the colours, APP14 how they are turned; the other twelve and comments are talk.
        let colours = marker == 0xe2 && segment[4..].starts_with(b"ICC_PROFILE");
        if !matches!(marker, 0xe1..=0xed | 0xef | 0xfe) || colours {
            kept.extend_from_slice(segment);
        }
        if marker == 0xda {
            let start = at;
            while bytes.get(at) != Some(&0xff) || matches!(bytes.get(at + 1)?, 0 | 0xd0..=0xd7) {
                at += 1;
                bytes.get(at)?;
            }
            kept.extend_from_slice(&bytes[start..at]);
        }
    }
    None
}

fn gif(bytes: &[u8]) -> Option<Vec<u8>> {
    let is_gif = bytes.starts_with(b"GIF87a") || bytes.starts_with(b"GIF89a");
    let table = |flags: u8| if flags & 0x80 == 0 { 0 } else { 3 << ((flags & 7) + 1) };
    let mut at = 13 + table(*bytes.get(10).filter(|_| is_gif)?);
    let mut kept = bytes.get(..at)?.to_vec();
    let blocks = |mut at: usize| -> Option<usize> {
        for _ in 0..MAX_PICTURE_CHUNKS {
            let len = usize::from(*bytes.get(at)?);
            at += 1 + len;
            if len == 0 {
                return Some(at);
            }
        }
        None
    };
    for _ in 0..MAX_PICTURE_CHUNKS {
        let start = at;
        let mut keep = true;
        match *bytes.get(at)? {
            0x3b => {
                kept.push(0x3b);
                return Some(kept);
            }
            0x2c => at = blocks(at + 11 + table(*bytes.get(at + 9)?))?,
            0x21 => {
                // Comments, plain texts, and of what programs add only how often it is shown.
                let loops = bytes.get(at + 3..at + 14) == Some(b"NETSCAPE2.0".as_slice());
                keep = matches!(bytes.get(at + 1)?, 0xf9) || (bytes[at + 1] == 0xff && loops);
                at = blocks(at + 2)?;
            }
            _ => return None,
        }
        if keep {
            kept.extend_from_slice(bytes.get(start..at)?);
        }
    }
    None
}

fn webp(bytes: &[u8]) -> Option<Vec<u8>> {
    let size = |at: usize| Some(u32::from_le_bytes(bytes.get(at..at + 4)?.try_into().ok()?) as usize);
    if !bytes.starts_with(b"RIFF") || bytes.get(8..12) != Some(b"WEBP") {
        return None;
    }
    let end = size(4)?.checked_add(8)?;
    let mut kept = bytes.get(..12)?.to_vec();
    let mut at = 12;
    while at < end {
        let len = size(at + 4)?;
        let chunk = bytes.get(at..at.checked_add(8)?.checked_add(len)?.checked_add(len & 1)?)?;
        at += chunk.len();
        match &chunk[..4] {
            b"EXIF" | b"XMP " => continue,
            b"VP8X" if len >= 4 => {
                let mut chunk = chunk.to_vec();
                chunk[8] &= !0b1100;
                kept.extend_from_slice(&chunk);
            }
            b"VP8 " | b"VP8L" | b"VP8X" | b"ANIM" | b"ANMF" | b"ALPH" | b"ICCP" => kept.extend_from_slice(chunk),
            _ => {}
        }
    }
    let len = u32::try_from(kept.len() - 8).ok()?;
    kept[4..8].copy_from_slice(&len.to_le_bytes());
    Some(kept)
}
