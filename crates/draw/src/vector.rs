//! Drawings of strangers: SVG icons. What would grow beyond all bounds is refused before it is drawn.

use std::collections::HashMap;
use std::fs::File;
use std::path::Path;

use image::RgbaImage;
use jovrik_file::{ReadError, read_open};
use jovrik_text::limits;
use resvg::usvg::roxmltree::{self, Document, NodeId, ParsingOptions};
use resvg::usvg::{Group, ImageHrefResolver, Node, Options, Tree};
use tiny_skia::{Pixmap, Transform};

use crate::pictures::PictureError;

/// The largest side of a drawing, in pixels.
const MAX_SIDE_PX: u32 = 1024;
/// So many things are drawn at most, each use of one counted.
const MAX_NODES: u64 = limits::SVG_NODES as u64;
/// The shortest dash and gap, as a part of the larger side of a drawing: shorter ones are seen by nobody.
const SHORTEST: f32 = 0.002;

/// Counts what is drawn of a node, with all that it uses.
fn counted(
    node: roxmltree::Node<'_, '_>,
    ids: &HashMap<&str, roxmltree::Node<'_, '_>>,
    known: &mut HashMap<NodeId, u64>,
    deep: usize,
) -> Option<u64> {
    if deep > limits::SVG_DEPTH {
        return None;
    }
    if let Some(known) = known.get(&node.id()) {
        return Some(*known);
    }
    let mut all: u64 = 1;
    for child in node.children().filter(roxmltree::Node::is_element) {
        all = all.saturating_add(counted(child, ids, known, deep + 1)?);
    }
    let href = node.attributes().find(|attribute| attribute.name() == "href").map(|attribute| attribute.value());
    // What is used; also patterns, masks and markers, by their links.
    let links = node.attributes().filter_map(|attribute| attribute.value().trim().strip_prefix("url(#")?.split(')').next());
    let used = href.and_then(|href| href.strip_prefix('#')).into_iter().chain(links).filter_map(|id| ids.get(id));
    for used in used {
        all = all.saturating_add(counted(*used, ids, known, deep + 1)?);
    }
    if all > MAX_NODES {
        return None;
    }
    known.insert(node.id(), all);
    Some(all)
}

/// Nothing else is read for a drawing: pictures in it would be files of their own.
fn options_of() -> Options<'static> {
    let image_href_resolver = ImageHrefResolver { resolve_data: Box::new(|_, _, _| None), resolve_string: Box::new(|_, _| None) };
    Options { image_href_resolver, ..Options::default() }
}

/// Whether a line has dashes that are shorter than so much.
fn dashed_finely(group: &Group, least: f32) -> bool {
    group.children().iter().any(|node| {
        let here = match node {
            Node::Group(inner) => dashed_finely(inner, least),
            Node::Path(path) => path.stroke().and_then(|stroke| stroke.dasharray()).is_some_and(|dashes| {
                let scale = path.abs_transform().get_scale();
                dashes.iter().sum::<f32>() * scale.0.max(scale.1) < least
            }),
            Node::Image(_) | Node::Text(_) => false,
        };
        let mut inside = false;
        node.subroots(|root| inside |= dashed_finely(root, least));
        here || inside
    })
}

/// Whether a path is that of an SVG, by its ending.
pub(crate) fn is_svg(path: &Path) -> bool {
    path.extension().is_some_and(|end| end.eq_ignore_ascii_case("svg"))
}

/// Reads an SVG, if it is one that is drawn.
///
/// # Errors
///
/// What cannot be read or drawn, or would take too much.
pub(crate) fn parse_svg(file: File) -> Result<Tree, PictureError> {
    let unread = |why: ReadError| PictureError::Read(why.to_string());
    let metadata = file.metadata().map_err(|error| unread(error.into()))?;
    let bytes = read_open(file, &metadata, limits::SVG_BYTES as u64).map_err(unread)?;
    let vector = |why: &dyn std::fmt::Display| PictureError::Vector(why.to_string());
    let text = std::str::from_utf8(&bytes).map_err(|_| vector(&"it is not in UTF-8"))?;
    let options = ParsingOptions { allow_dtd: true, nodes_limit: 4 * MAX_NODES as u32, ..ParsingOptions::default() };
    let document = Document::parse_with_options(text, options).map_err(|why| vector(&why))?;
    let ids: HashMap<&str, roxmltree::Node<'_, '_>> =
        document.descendants().filter_map(|node| Some((node.attribute("id")?, node))).collect();
    if document.descendants().any(|node| node.is_element() && node.tag_name().name() == "filter") {
        return Err(vector(&"it has filters, which are not drawn"));
    }
    if counted(document.root_element(), &ids, &mut HashMap::new(), 0).is_none() {
        return Err(vector(&"it is too large, or uses itself"));
    }
    let tree = Tree::from_xmltree(&document, &options_of()).map_err(|why| vector(&why))?;
    let least = SHORTEST * tree.size().width().max(tree.size().height());
    if dashed_finely(tree.root(), least) {
        return Err(vector(&"its lines are dashed too finely"));
    }
    Ok(tree)
}

/// Draws an SVG of a file into a box.
///
/// # Errors
///
/// What cannot be read or drawn, or would take too much.
pub(crate) fn draw_svg(file: File, w: u32, h: u32) -> Result<RgbaImage, PictureError> {
    let tree = parse_svg(file)?;
    let (w, h) = (w.clamp(1, MAX_SIDE_PX), h.clamp(1, MAX_SIDE_PX));
    let (own_w, own_h) = (tree.size().width(), tree.size().height());
    let by = (w as f32 / own_w).min(h as f32 / own_h);
    let large = || PictureError::Large;
    let (wide, high) = ((own_w * by).round().max(1.0) as u32, (own_h * by).round().max(1.0) as u32);
    let mut pixels = Pixmap::new(wide, high).ok_or_else(large)?;
    resvg::render(&tree, Transform::from_scale(by, by), &mut pixels.as_mut());
    if pixels.pixels().iter().all(|pixel| pixel.alpha() == 0) {
        // Text is not drawn: some are nothing else.
        return Err(PictureError::Vector("nothing of it can be seen".to_owned()));
    }
    // Pictures are kept as they stand in files: not premultiplied.
    let plain = pixels.pixels().iter().flat_map(|pixel| {
        let pixel = pixel.demultiply();
        [pixel.red(), pixel.green(), pixel.blue(), pixel.alpha()]
    });
    RgbaImage::from_raw(wide, high, plain.collect()).ok_or_else(large)
}
