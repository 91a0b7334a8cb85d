//! Pictures and drawings of strangers: what makes sense is drawn, the rest is refused soon.

use std::path::Path;

use jovrik_core::rice::Fit;
use jovrik_core::scene::{Primitive, SMALL, Scene, THEMED};
use jovrik_draw::{Brush, Canvas, FontPlaces, Job, JobKind, PictureError, RawImage, Thumbnail};
use jovrik_schema::Colour;
use jovrik_text::limits;
use jovrik_values::Rect;

/// What is drawn of an icon of a theme in a box of 16 pixels: the colour of the middle. Red stands in.
fn drawn(folder: &Path, name: &str) -> ([u8; 4], Brush) {
    let mut brush = Brush::new(FontPlaces::default(), folder);
    let themes = folder.to_owned();
    brush.pictures.find_icons(Box::new(move |name, _| Some(themes.join(name)).filter(|path| path.exists())));
    let rect = Rect::new(0.0, 0.0, 16.0, 16.0);
    let mut stand_in = Scene::default();
    stand_in.fill(rect, 0.0, jovrik_schema::Colour { r: 255, g: 0, b: 0, a: 255 });
    let path = format!("{THEMED}{name}");
    let scene = Scene { items: vec![Primitive::Picture { rect, path, fit: Fit::Contain, otherwise: stand_in.items }] };
    let mut canvas = Canvas::new(16, 16).expect("room");
    canvas.draw(&scene, (0.0, 0.0), &mut brush);
    let at = (8 * 16 + 8) * 4;
    ([0, 1, 2, 3].map(|channel| canvas.bytes()[at + channel]), brush)
}

const RED: [u8; 4] = [255, 0, 0, 255];

#[test]
fn drawings_are_drawn_and_what_would_never_end_is_refused_for_what_stands_in() {
    let folder = tempfile::tempdir().expect("a folder");
    let svg = |inside: &str| {
        format!(
            "<svg xmlns=\"http://www.w3.org/2000/svg\" xmlns:xlink=\"http://www.w3.org/1999/xlink\" width=\"16\" height=\"16\">{inside}</svg>"
        )
    };
    // Each level uses the one below ten times.
    let mut bomb = "<g id=\"a0\"><rect width=\"1\" height=\"1\"/></g>".to_owned();
    for level in 1..12 {
        let uses = format!("<use xlink:href=\"#a{}\"/>", level - 1).repeat(10);
        bomb.push_str(&format!("<g id=\"a{level}\">{uses}</g>"));
    }
    let entities: String = (1..20).map(|nth| format!("<!ENTITY e{nth} \"&e{0};&e{0};&e{0};&e{0}\">", nth - 1)).collect();
    let deep = format!("{}{}", "<g>".repeat(50_000), "</g>".repeat(50_000));
    let filters = "<filter id=\"f\"><feGaussianBlur stdDeviation=\"9\"/></filter>".repeat(500);
    let files = [
        ("good.svg", svg("<rect width=\"16\" height=\"16\" fill=\"#00f\"/>")),
        ("used.svg", svg("<g id=\"a\"><rect width=\"16\" height=\"8\" fill=\"#00f\"/></g><use xlink:href=\"#a\" y=\"8\"/>")),
        ("bomb.svg", svg(&bomb)),
        ("round.svg", svg("<g id=\"a\"><use xlink:href=\"#b\"/></g><g id=\"b\"><use xlink:href=\"#a\"/></g>")),
        (
            "pattern.svg",
            svg(
                "<pattern id=\"p\" width=\"1\" height=\"1\"><rect fill=\"url(#p)\"/></pattern><rect width=\"16\" height=\"16\" fill=\"url(#p)\"/>",
            ),
        ),
        ("deep.svg", svg(&deep)),
        ("filters.svg", svg(&filters)),
        (
            "turbulence.svg",
            svg(
                "<filter id=\"f\"><feTurbulence baseFrequency=\"9\" numOctaves=\"99\"/></filter><rect width=\"16\" height=\"16\" filter=\"url(#f)\"/>",
            ),
        ),
        ("dashed.svg", svg("<path d=\"M0 0L16 16\" stroke=\"#00f\" stroke-width=\"9\" stroke-dasharray=\"0.00001\"/>")),
        ("outside.svg", svg("<image href=\"good.svg\" width=\"16\" height=\"16\"/>")),
        ("entities.svg", format!("<!DOCTYPE svg [<!ENTITY e0 \"x\">{entities}]>{}", svg("<text>&e19;</text>"))),
        ("words.svg", svg("<text y=\"12\">no fonts</text>")),
        (
            "huge.svg",
            svg("<rect width=\"16\" height=\"16\"/>").replacen(
                "width=\"16\" height=\"16\"",
                "width=\"1e30\" height=\"1e-30\"",
                1,
            ),
        ),
        ("open.svg", "<svg xmlns=\"http://www.w3.org/2000/svg\"><rect".to_owned()),
        ("none.svg", String::new()),
        ("none.png", "no picture".to_owned()),
    ];
    for (name, text) in &files {
        std::fs::write(folder.path().join(name), text).expect("written");
    }
    std::fs::write(folder.path().join("latin.svg"), b"<svg>\xe9</svg>").expect("written");
    for name in ["good.svg", "used.svg"] {
        assert_eq!(drawn(folder.path(), name).0, [0, 0, 255, 255], "{name}");
    }
    let bad = files.iter().map(|(name, _)| *name).filter(|name| !["good.svg", "used.svg", "huge.svg"].contains(name));
    for name in bad.chain(["latin.svg"]) {
        let (colour, brush) = drawn(folder.path(), name);
        assert_eq!(colour, RED, "{name}");
        assert_eq!(brush.pictures.broken_icons.len(), 1, "{name} is told of");
    }
    // One that is nothing but wide may be drawn or not: it ends.
    drawn(folder.path(), "huge.svg");
    assert_eq!(drawn(folder.path(), "missing.svg").0, RED);
}

#[test]
fn pixels_that_are_sent_must_be_there() {
    let bytes = [9; 4 * 4 * 4];
    let sent =
        |width, height, stride, alpha, len: usize| RawImage { width, height, stride, alpha, bytes: &bytes[..len] }.picture(96);
    let whole = sent(4, 4, 16, true, 64).expect("a picture");
    assert_eq!((whole.0, whole.1.len()), ((4, 4), 64));
    assert_eq!(sent(4, 4, 16, false, 60).expect("a picture").1[3], 255, "without an opacity it covers");
    // The last row need not be filled up.
    assert!(sent(3, 4, 16, true, 3 * 16 + 12).is_some() && sent(3, 4, 16, true, 3 * 16 + 11).is_none());
    for (width, height, stride) in
        [(0, 4, 16), (4, -4, 16), (4, 4, 15), (4, 4, -16), (i32::MAX, 4, i32::MAX), (4, i32::MAX, 16), (4, 5, 16)]
    {
        assert!(sent(width, height, stride, true, 64).is_none(), "{width}x{height}, {stride}");
    }
    let wide =
        RawImage { width: 400, height: 2, stride: 1200, alpha: false, bytes: &vec![7; 2400] }.picture(96).expect("a picture");
    assert_eq!(wide.0, (96, 1));
}

#[test]
fn a_small_copy_is_taken_where_it_is_of_the_very_picture_and_whole() {
    let folder = tempfile::tempdir().expect("a folder");
    let file = folder.path().join("flat.png");
    image::RgbImage::from_fn(900, 300, |x, _| image::Rgb([(x / 4) as u8, 0, 0])).save(&file).expect("written");
    let small = Thumbnail::of(&file, 90).expect("it is made");
    let texts = |changed: &str| [("Thumb::URI", "file:///flat.png".to_owned()), ("Thumb::MTime", changed.to_owned())];
    let kept = small.encode(&texts("12")).expect("encoded");
    let dimensions = image::load_from_memory(&kept).expect("a picture");
    assert_eq!((dimensions.width(), dimensions.height()), (90, 30));
    assert!(Thumbnail::decode(&kept, &texts("12")).is_some());
    assert!(Thumbnail::decode(&kept, &texts("13")).is_none(), "it is of an older one");
    for end in [0, 7, 40, kept.len() / 2, kept.len() - 20] {
        assert!(Thumbnail::decode(&kept[..end], &texts("12")).is_none(), "cut at {end}");
    }
    assert_eq!(
        Thumbnail::of(&file, 2000)
            .expect("read")
            .encode(&[])
            .map(|bytes| image::load_from_memory(&bytes).map(|own| own.width()).ok())
            .ok(),
        Some(Some(900)),
        "none is made larger"
    );
    assert!(Thumbnail::of(&folder.path().join("gone.png"), 90).is_err());
}

#[test]
fn a_picture_that_is_made_aside_is_empty_until_it_is_there() {
    let folder = tempfile::tempdir().expect("a folder");
    image::RgbImage::from_pixel(64, 64, image::Rgb([0, 200, 0])).save(folder.path().join("green.png")).expect("written");
    let mut brush = Brush::new(FontPlaces::default(), folder.path());
    let mut asked = 0;
    brush.pictures.draws_aside(Box::new(move |job| {
        asked += 1;
        (asked > 1).then(|| job.draw())
    }));
    let mut scene = Scene::default();
    let rect = Rect::new(0.0, 0.0, 10.0, 10.0);
    let otherwise = vec![Primitive::Fill { rect, radius: [0.0; 4], fill: Colour { r: 0, g: 0, b: 200, a: 255 }.into() }];
    scene.items.push(Primitive::Picture { rect, path: format!("{SMALL}green.png"), fit: Fit::Cover, otherwise });
    let mut drawn = || {
        let mut canvas = Canvas::new(10, 10).expect("room");
        canvas.draw(&scene, (0.0, 0.0), &mut brush);
        canvas.bytes()[..3].to_vec()
    };
    assert_eq!(drawn(), [0, 0, 200]);
    assert_eq!(drawn(), [0, 200, 0]);
    assert_eq!(drawn(), [0, 200, 0], "it is kept");
}

/// A PNG of one colour that is as large as it says, and takes few bytes: grey, a bit a pixel.
fn flat(file: &Path, w: u32, h: u32, interlaced: bool) {
    let mut encoder = png::Encoder::new(std::fs::File::create(file).expect("made"), w, h);
    encoder.set_depth(png::BitDepth::One);
    encoder.set_color(png::ColorType::Grayscale);
    let mut writer = encoder.write_header().expect("written");
    let mut stream = writer.stream_writer().expect("a stream");
    let row = vec![0xff; w.div_ceil(8) as usize];
    (0..h).for_each(|_| std::io::Write::write_all(&mut stream, &row).expect("written"));
    stream.finish().expect("written");
    drop(writer);
    if interlaced {
        // The thirteenth byte of IHDR, with the sum of the chunk put right.
        let mut bytes = std::fs::read(file).expect("read");
        bytes[28] = 1;
        let sum = crc(&bytes[12..29]).to_be_bytes();
        bytes[29..33].copy_from_slice(&sum);
        std::fs::write(file, bytes).expect("written");
    }
}

/// The sum of a chunk (PNG, annex D).
fn crc(bytes: &[u8]) -> u32 {
    !bytes.iter().fold(u32::MAX, |sum, byte| {
        (0..8).fold(sum ^ u32::from(*byte), |sum, _| if sum & 1 == 1 { 0xedb8_8320 ^ (sum >> 1) } else { sum >> 1 })
    })
}

#[test]
fn a_picture_is_never_larger_in_memory_than_it_is_seen_and_a_huge_one_not_read_at_all() {
    let folder = tempfile::tempdir().expect("a folder");
    let at = |name: &str| folder.path().join(name);
    flat(&at("huge.png"), 16_000, 16_000, false);
    flat(&at("woven.png"), 6_000, 6_000, true);
    flat(&at("large.png"), 2_000, 2_000, false);
    let job = |name: &str, kind: JobKind| Job { file: at(name), within: None, size: (64, 64), kind };
    for (name, kind) in [("huge.png", JobKind::Icon), ("huge.png", JobKind::Fitted(0)), ("woven.png", JobKind::Fitted(0))] {
        assert_eq!(job(name, kind).draw().expect_err("too large"), PictureError::Large, "{name}");
        assert_eq!(Brush::new(FontPlaces::default(), folder.path()).pictures.trouble(name), Some(PictureError::Large));
    }
    // Cover, contain, stretch: shrunk on the way. Tiles and what stands in the middle: what is seen of it.
    for fit in 0..5 {
        let drawn = job("large.png", JobKind::Fitted(fit)).draw().expect("drawn");
        assert_eq!((drawn.size(), drawn.rgba()[0]), ((64, 64), 255), "{fit}");
    }
}

#[test]
fn a_picture_that_is_shrunk_while_it_is_read_looks_as_one_that_is_shrunk_whole() {
    let folder = tempfile::tempdir().expect("a folder");
    let file = folder.path().join("waves.png");
    let wave = |x: u32, y: u32| image::Rgba([(x / 3) as u8, (y / 2) as u8, ((x + y) / 4) as u8, 255]);
    let whole = image::RgbaImage::from_fn(600, 400, wave);
    whole.save(&file).expect("written");
    for (fit, size) in [(0, (60, 60)), (1, (60, 60)), (2, (61, 39)), (0, (200, 30))] {
        let drawn = Job { file: file.clone(), within: None, size, kind: JobKind::Fitted(fit) }.draw().expect("drawn");
        let (w, h) = drawn.size();
        let seen = match fit {
            0 => {
                let scale = (f64::from(size.0) / 600.0).max(f64::from(size.1) / 400.0);
                let keep = ((f64::from(size.0) / scale).round() as u32, (f64::from(size.1) / scale).round() as u32);
                image::imageops::crop_imm(&whole, (600 - keep.0) / 2, (400 - keep.1) / 2, keep.0, keep.1).to_image()
            }
            _ => whole.clone(),
        };
        let expected = image::imageops::resize(&seen, w, h, image::imageops::FilterType::Triangle);
        let far = expected.as_raw().iter().zip(drawn.rgba()).map(|(a, b)| a.abs_diff(*b)).max().expect("pixels");
        assert!(far <= 6, "{fit} {size:?}: {far} apart");
    }
}

#[test]
fn drawings_and_pictures_are_taken_at_their_limits_and_not_above() {
    let folder = tempfile::tempdir().expect("a folder");
    let draw = |name: &str, text: &[u8]| {
        let file = folder.path().join(name);
        std::fs::write(&file, text).expect("written");
        Job { file, within: None, size: (16, 16), kind: JobKind::Icon }.draw().map(|drawn| drawn.size())
    };
    let svg = |inside: &str| {
        format!("<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"16\" height=\"16\">{inside}</svg>").into_bytes()
    };
    let dot = "<rect width=\"9\" height=\"9\"/>";
    // One is the drawing itself.
    let many = |dots: usize| draw("a.svg", &svg(&dot.repeat(dots)));
    assert_eq!(many(limits::SVG_NODES - 1), Ok((16, 16)));
    assert!(matches!(many(limits::SVG_NODES), Err(PictureError::Vector(_))));
    let deep = |levels: usize| draw("a.svg", &svg(&format!("{}{dot}{}", "<g>".repeat(levels), "</g>".repeat(levels))));
    assert_eq!(deep(limits::SVG_DEPTH - 1), Ok((16, 16)));
    assert!(matches!(deep(limits::SVG_DEPTH + 1), Err(PictureError::Vector(_))));
    let long = |bytes: usize| {
        let own = svg(&format!("{dot}<!---->")).len();
        draw("a.svg", &svg(&format!("{dot}<!--{}-->", "x".repeat(bytes - own))))
    };
    assert_eq!(long(limits::SVG_BYTES), Ok((16, 16)));
    assert!(matches!(long(limits::SVG_BYTES + 1), Err(PictureError::Read(_))));
    // Behind the end of a picture may stand what likes to.
    flat(&folder.path().join("b.png"), 8, 8, false);
    let small = std::fs::read(folder.path().join("b.png")).expect("read");
    let padded = |bytes: usize| draw("a.png", &[small.as_slice(), &vec![0; bytes - small.len()]].concat());
    assert_eq!(padded(limits::ICON_BYTES), Ok((16, 16)));
    assert_eq!(padded(limits::ICON_BYTES + 1), Err(PictureError::Large));
    let file = folder.path().join("large.png");
    std::fs::File::create(&file).and_then(|file| file.set_len(limits::PICTURE_BYTES as u64 + 1)).expect("made");
    let job = Job { file, within: None, size: (16, 16), kind: JobKind::Fitted(0) };
    assert!(matches!(job.draw(), Err(PictureError::Read(_))));
    // So many pixels, by rows and whole.
    let side = |pixels: usize| (pixels as f64).sqrt() as u32;
    for (most, interlaced) in [(limits::PICTURE_PIXELS, false), (limits::WHOLE_PIXELS, true)] {
        let name = format!("{most}.png");
        for (more, fits) in [(0, true), (8, false)] {
            flat(&folder.path().join(&name), side(most) + more, side(most) + more, interlaced);
            let trouble = Brush::new(FontPlaces::default(), folder.path()).pictures.trouble(&name);
            assert_eq!(trouble, (!fits).then_some(PictureError::Large), "{name}");
        }
    }
}

#[test]
fn fuzz_drawings() {
    let folder = tempfile::tempdir().expect("a folder");
    let file = folder.path().join("a.svg");
    let svg = |inside: &str| {
        format!("<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"16\" height=\"16\">{inside}</svg>").into_bytes()
    };
    let corpus = [
        svg("<rect width=\"16\" height=\"16\" fill=\"#00f\"/><path d=\"M0 0L16 16Z\" stroke=\"red\" stroke-dasharray=\"2 1\"/>"),
        svg(
            "<defs><g id=\"a\"><circle r=\"4\"/></g><linearGradient id=\"g\"><stop offset=\"0\" stop-color=\"red\"/></linearGradient></defs><use href=\"#a\" x=\"3\"/><rect fill=\"url(#g)\" width=\"9\" height=\"9\"/>",
        ),
        svg(
            "<clipPath id=\"c\"><rect width=\"4\" height=\"4\"/></clipPath><mask id=\"m\"><rect width=\"9\" height=\"9\"/></mask><g clip-path=\"url(#c)\" mask=\"url(#m)\" transform=\"scale(2)\" opacity=\".5\"><ellipse rx=\"9\" ry=\"3\"/></g>",
        ),
    ];
    let job = Job { file: file.clone(), within: None, size: (24, 24), kind: JobKind::Icon };
    jovrik_fuzz::tries("drawings", &corpus, 800, |bytes| {
        std::fs::write(&file, bytes).expect("written");
        let _ = job.draw();
    });
}

#[test]
fn fuzz_pictures() {
    let folder = tempfile::tempdir().expect("a folder");
    let file = folder.path().join("a.png");
    flat(&file, 40, 30, false);
    let mut corpus = vec![std::fs::read(&file).expect("read")];
    let noise = image::RgbaImage::from_fn(9, 7, |x, y| image::Rgba([x as u8 * 20, y as u8 * 30, 7, 99]));
    noise.save(&file).expect("written");
    corpus.push(std::fs::read(&file).expect("read"));
    image::DynamicImage::ImageRgba8(noise).into_rgb8().save(folder.path().join("a.jpg")).unwrap_or_default();
    corpus.extend(std::fs::read(folder.path().join("a.jpg")));
    jovrik_fuzz::tries("pictures", &corpus, 3000, |bytes| {
        std::fs::write(&file, bytes).expect("written");
        for fit in 0..5 {
            let _ = Job { file: file.clone(), within: None, size: (5, 9), kind: JobKind::Fitted(fit) }.draw();
        }
    });
}
