//! A scene as SVG 1.1: shapes stay shapes, and text becomes outlines, so that no font is needed to see it.

use std::collections::HashMap;
use std::fmt::Write;

use base64::Engine as _;
use cosmic_text::{CacheKey, Command};
use jovrik_core::scene::{CornerRadii, PathSegment, Primitive, Scene, TextRotation};
use jovrik_schema::Colour;
use jovrik_values::{Fill, Gradient, Rect};

use crate::Brush;
use crate::boxes::fitted;

/// What is defined once and used often: gradients and glyphs.
#[derive(Default)]
struct Definitions {
    text: String,
    glyphs: HashMap<CacheKey, usize>,
    gradients: usize,
    /// Whether letters stay letters, in the family of the page that it stands in.
    letters: bool,
}

fn number(value: f32) -> String {
    let text = format!("{value:.2}");
    text.trim_end_matches('0').trim_end_matches('.').to_owned()
}

/// `fill="#…"`, with an opacity where it lets something through.
fn paint(name: &str, colour: Colour) -> String {
    let Colour { r, g, b, a } = colour;
    match a {
        255 => format!("{name}=\"#{r:02x}{g:02x}{b:02x}\""),
        _ => format!("{name}=\"#{r:02x}{g:02x}{b:02x}\" {name}-opacity=\"{}\"", number(f32::from(a) / 255.0)),
    }
}

impl Definitions {
    fn fill(&mut self, name: &str, fill: &Fill, rect: Rect) -> String {
        match fill {
            Fill::Plain(colour) => paint(name, *colour),
            Fill::Gradient(gradient) => format!("{name}=\"url(#{})\"", self.gradient(gradient, rect)),
        }
    }

    fn gradient(&mut self, gradient: &Gradient, rect: Rect) -> String {
        self.gradients += 1;
        let id = format!("g{}", self.gradients);
        let (sin, cos) = gradient.angle.to_radians().sin_cos();
        let half = ((rect.w * sin).abs() + (rect.h * cos).abs()) / 2.0;
        let (cx, cy) = (rect.x + rect.w / 2.0, rect.y + rect.h / 2.0);
        let ends = [cx - sin * half, cy + cos * half, cx + sin * half, cy - cos * half].map(number);
        let _ = write!(
            self.text,
            "<linearGradient id=\"{id}\" gradientUnits=\"userSpaceOnUse\" x1=\"{}\" y1=\"{}\" x2=\"{}\" y2=\"{}\">",
            ends[0], ends[1], ends[2], ends[3]
        );
        for (at, colour) in &gradient.stops {
            let _ = write!(
                self.text,
                "<stop offset=\"{}\" {}/>",
                number(*at),
                paint("stop-color", *colour).replace("stop-color-opacity", "stop-opacity")
            );
        }
        self.text.push_str("</linearGradient>\n");
        id
    }
}

fn path(steps: &[PathSegment]) -> String {
    let mut out = String::new();
    for step in steps {
        let (letter, numbers): (char, Vec<f32>) = match *step {
            PathSegment::Move(x, y) => ('M', vec![x, y]),
            PathSegment::Line(x, y) => ('L', vec![x, y]),
            PathSegment::Curve(a, b, c, d, x, y) => ('C', vec![a, b, c, d, x, y]),
            PathSegment::Close => ('Z', Vec::new()),
        };
        out.push(letter);
        out.push_str(&numbers.into_iter().map(number).collect::<Vec<_>>().join(" "));
    }
    out
}

fn outline(commands: &[Command]) -> String {
    let mut out = String::new();
    for command in commands {
        // Outlines grow upwards, pictures downwards.
        let at = |x: f32, y: f32| format!("{} {}", number(x), number(-y));
        let _ = match command {
            Command::MoveTo(to) => write!(out, "M{}", at(to.x, to.y)),
            Command::LineTo(to) => write!(out, "L{}", at(to.x, to.y)),
            Command::QuadTo(by, to) => write!(out, "Q{} {}", at(by.x, by.y), at(to.x, to.y)),
            Command::CurveTo(a, b, to) => write!(out, "C{} {} {}", at(a.x, a.y), at(b.x, b.y), at(to.x, to.y)),
            Command::Close => write!(out, "Z"),
        };
    }
    out
}

/// A rounded box as a path.
fn rounded(rect: Rect, radius: CornerRadii) -> String {
    let Rect { x, y, w, h } = rect;
    let [a, b, c, d] = fitted(rect, radius);
    let arc = |radius: f32, x: f32, y: f32| {
        if radius > 0.0 { format!("A{0} {0} 0 0 1 {1} {2}", number(radius), number(x), number(y)) } else { String::new() }
    };
    let line = |x: f32, y: f32| format!("L{} {}", number(x), number(y));
    [
        format!("M{} {}", number(x + a), number(y)),
        line(x + w - b, y),
        arc(b, x + w, y + b),
        line(x + w, y + h - c),
        arc(c, x + w - c, y + h),
        line(x + d, y + h),
        arc(d, x, y + h - d),
        line(x, y + a),
        arc(a, x + a, y),
        "Z".to_owned(),
    ]
    .concat()
}

/// A scene's area as an SVG file.
pub fn svg(scene: &Scene, area: Rect, brush: &mut Brush) -> String {
    written(scene, area, brush, Definitions::default())
}

/// A scene's area as a drawing in a page: its letters stay letters, so that they can be searched, and take the page's family; each text is as
/// wide as it was measured.
pub fn svg_in_page(scene: &Scene, area: Rect, brush: &mut Brush) -> String {
    written(scene, area, brush, Definitions { letters: true, ..Definitions::default() })
}

fn written(scene: &Scene, area: Rect, brush: &mut Brush, mut definitions: Definitions) -> String {
    let mut body = String::new();
    for item in &scene.items {
        draw(item, &mut definitions, &mut body, brush);
    }
    let view = [area.x, area.y, area.w, area.h].map(number).join(" ");
    let (w, h) = (number(area.w), number(area.h));
    format!(
        "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{w}\" height=\"{h}\" viewBox=\"{view}\">\n<defs>\n{}</defs>\n{body}</svg>\n",
        definitions.text
    )
}

fn draw(item: &Primitive, definitions: &mut Definitions, body: &mut String, brush: &mut Brush) {
    let _ = match item {
        Primitive::Fill { rect, radius, fill } => {
            let fill = definitions.fill("fill", fill, *rect);
            let [x, y, w, h] = [rect.x, rect.y, rect.w, rect.h].map(number);
            match radius.iter().all(|corner| *corner == radius[0]) {
                true => {
                    let round = number(fitted(*rect, *radius)[0]);
                    writeln!(body, "<rect x=\"{x}\" y=\"{y}\" width=\"{w}\" height=\"{h}\" rx=\"{round}\" {fill}/>")
                }
                false => writeln!(body, "<path d=\"{}\" {fill}/>", rounded(*rect, *radius)),
            }
        }
        Primitive::Border { rect, radius, width, fill } => {
            let stroke = definitions.fill("stroke", fill, *rect);
            let middle = rounded(rect.grown(-width / 2.0), radius.map(|radius| (radius - width / 2.0).max(0.0)));
            writeln!(body, "<path d=\"{middle}\" fill=\"none\" {stroke} stroke-width=\"{}\"/>", number(*width))
        }
        Primitive::Glow { rect, radius, width, colour } => {
            // A ring for each pixel that it reaches.
            for step in 0..width.ceil() as u32 {
                let away = step as f32 + 0.5;
                let fade = (1.0 - away / width).max(0.0).powi(2);
                let ring = rounded(rect.grown(away), [radius + away; 4]);
                let stroke = paint("stroke", colour.faded(fade));
                let _ = writeln!(body, "<path d=\"{ring}\" fill=\"none\" {stroke} stroke-width=\"1\"/>");
            }
            Ok(())
        }
        Primitive::Stroke { path: steps, width, colour, dash } => {
            let dash = dash.map_or(String::new(), |(on, off)| format!(" stroke-dasharray=\"{} {}\"", number(on), number(off)));
            let cap = if *width > 1.0 { "round" } else { "butt" };
            let stroke = paint("stroke", *colour);
            let (d, width) = (path(steps), number(*width));
            writeln!(
                body,
                "<path d=\"{d}\" fill=\"none\" {stroke} stroke-width=\"{width}\" stroke-linecap=\"{cap}\" stroke-linejoin=\"round\"{dash}/>"
            )
        }
        Primitive::Shape { path: steps, colour } => writeln!(body, "<path d=\"{}\" {}/>", path(steps), paint("fill", *colour)),
        Primitive::Text { x, y, text, face, colour, turn } => {
            let line = brush.fonts.line(text, face);
            if definitions.letters && *turn == TextRotation::None {
                let size = number(face.points * 96.0 / 72.0);
                let bold = if face.bold { " font-weight=\"bold\"" } else { "" };
                let text = text.replace('&', "&amp;").replace('<', "&lt;").replace('>', "&gt;");
                let (x, y) = (number(x.round()), number(y.round() + line.baseline.round()));
                let (wide, fill) = (number(line.width.ceil()), paint("fill", *colour));
                let _ = writeln!(
                    body,
                    "<text x=\"{x}\" y=\"{y}\" font-size=\"{size}\"{bold} textLength=\"{wide}\" lengthAdjust=\"spacingAndGlyphs\" {fill}>{text}</text>"
                );
                return;
            }
            let spin = match turn {
                TextRotation::None => "",
                TextRotation::Up => " rotate(-90)",
                TextRotation::Down => " rotate(90)",
            };
            let fill = paint("fill", *colour);
            let _ = writeln!(body, "<g transform=\"translate({} {}){spin}\" {fill}>", number(x.round()), number(y.round()));
            let down = line.baseline.round() as i32;
            for glyph in &line.glyphs {
                let known = definitions.glyphs.len();
                let id = match definitions.glyphs.get(&glyph.key) {
                    Some(id) => *id,
                    None => {
                        let d = outline(&brush.fonts.outline(glyph.key));
                        let _ = writeln!(definitions.text, "<path id=\"t{known}\" d=\"{d}\"/>");
                        definitions.glyphs.insert(glyph.key, known);
                        known
                    }
                };
                let _ = write!(body, "<use href=\"#t{id}\" x=\"{}\" y=\"{}\"/>", glyph.x, down + glyph.y);
            }
            if face.underline {
                let (y, w) = (number(line.baseline.round() + 2.0), number(line.width.round()));
                let _ = write!(body, "<rect x=\"0\" y=\"{y}\" width=\"{w}\" height=\"1\"/>");
            }
            writeln!(body, "</g>")
        }
        Primitive::Picture { rect, path, fit, otherwise } => match brush.pictures.fitted(path, *rect, *fit) {
            Some(fitted) => {
                let mut bytes = Vec::new();
                let encoded = fitted.pixels.write_to(&mut std::io::Cursor::new(&mut bytes), image::ImageFormat::Png);
                if encoded.is_err() {
                    return;
                }
                let data = base64::engine::general_purpose::STANDARD.encode(&bytes);
                let (own_w, own_h) = (fitted.pixels.width() as f32, fitted.pixels.height() as f32);
                let across = if fitted.tiled { (rect.w / own_w).ceil() as u32 } else { 1 };
                let down = if fitted.tiled { (rect.h / own_h).ceil() as u32 } else { 1 };
                let [x, y, w, h] = [rect.x, rect.y, rect.w, rect.h].map(number);
                let _ = writeln!(body, "<svg x=\"{x}\" y=\"{y}\" width=\"{w}\" height=\"{h}\">");
                let places = (0..down).flat_map(|row| (0..across).map(move |column| (column, row)));
                for (column, row) in places.take(4096) {
                    let x = fitted.at.0 as f32 + column as f32 * own_w;
                    let y = fitted.at.1 as f32 + row as f32 * own_h;
                    let (x, y) = (number(x), number(y));
                    let _ = writeln!(body, "<image x=\"{x}\" y=\"{y}\" href=\"data:image/png;base64,{data}\"/>");
                }
                writeln!(body, "</svg>")
            }
            None => {
                otherwise.iter().for_each(|item| draw(item, definitions, body, brush));
                Ok(())
            }
        },
    };
}
