//! Drawings of strangers: SVG icons. What would grow beyond all bounds is refused before it is drawn.

use std::collections::HashMap;
use std::path::Path;

use image::RgbaImage;
use jovrik_file::read_file;
use resvg::usvg::roxmltree::{Document, Node, NodeId, ParsingOptions};
use resvg::usvg::{Options, Tree};
use tiny_skia::{Pixmap, Transform};

use crate::pictures::PictureError;

/// The largest drawing that is read, in bytes, and its largest picture, in pixels a side.
const MOST_BYTES: u64 = 1024 * 1024;
const MOST_SIDE: u32 = 1024;
/// So many things are drawn at most, each use of one counted, so deep in each other, and so many of these are filters.
const MOST_NODES: u64 = 20_000;
const DEEPEST: usize = 64;
const MOST_FILTERS: usize = 16;

/// Counts what is drawn of a node, with all that it uses.
fn counted(node: Node<'_, '_>, ids: &HashMap<&str, Node<'_, '_>>, known: &mut HashMap<NodeId, u64>, deep: usize) -> Option<u64> {
    if deep > DEEPEST {
        return None;
    }
    if let Some(known) = known.get(&node.id()) {
        return Some(*known);
    }
    let mut all: u64 = 1;
    for child in node.children().filter(Node::is_element) {
        all = all.saturating_add(counted(child, ids, known, deep + 1)?);
    }
    let href = node.attributes().find(|attribute| attribute.name() == "href").map(|attribute| attribute.value());
    // What is used; also patterns, masks and markers, by their links.
    let links = node.attributes().filter_map(|attribute| attribute.value().trim().strip_prefix("url(#")?.split(')').next());
    let used = href.and_then(|href| href.strip_prefix('#')).into_iter().chain(links).filter_map(|id| ids.get(id));
    for used in used {
        all = all.saturating_add(counted(*used, ids, known, deep + 1)?);
    }
    if all > MOST_NODES {
        return None;
    }
    known.insert(node.id(), all);
    Some(all)
}

/// Draws an SVG of a file into a box.
///
/// # Errors
///
/// What cannot be read or drawn, or would take too much.
pub fn read_svg(file: &Path, w: u32, h: u32) -> Result<RgbaImage, PictureError> {
    let bytes = read_file(file, MOST_BYTES).map_err(|why| PictureError::Read(why.to_string()))?;
    let vector = |why: &dyn std::fmt::Display| PictureError::Vector(why.to_string());
    let text = std::str::from_utf8(&bytes).map_err(|_| vector(&"it is not in UTF-8"))?;
    let options = ParsingOptions { allow_dtd: true, nodes_limit: MOST_NODES as u32, ..ParsingOptions::default() };
    let document = Document::parse_with_options(text, options).map_err(|why| vector(&why))?;
    let ids: HashMap<&str, Node<'_, '_>> =
        document.descendants().filter_map(|node| Some((node.attribute("id")?, node))).collect();
    let filters = document.descendants().filter(|node| node.tag_name().name().starts_with("fe")).count();
    if counted(document.root_element(), &ids, &mut HashMap::new(), 0).is_none() || filters > MOST_FILTERS {
        return Err(vector(&"it is too large, or uses itself"));
    }
    let tree = Tree::from_xmltree(&document, &Options::default()).map_err(|why| vector(&why))?;
    let (w, h) = (w.clamp(1, MOST_SIDE), h.clamp(1, MOST_SIDE));
    let (own_w, own_h) = (tree.size().width(), tree.size().height());
    let by = (w as f32 / own_w).min(h as f32 / own_h);
    let large = || PictureError::Large;
    let (wide, high) = ((own_w * by).round().max(1.0) as u32, (own_h * by).round().max(1.0) as u32);
    let mut pixels = Pixmap::new(wide, high).ok_or_else(large)?;
    resvg::render(&tree, Transform::from_scale(by, by), &mut pixels.as_mut());
    if pixels.pixels().iter().all(|pixel| pixel.alpha() == 0) {
        // Text is not drawn: some are nothing else.
        return Err(vector(&"nothing of it can be seen"));
    }
    // Pictures are kept as they stand in files: not premultiplied.
    let plain = pixels.pixels().iter().flat_map(|pixel| {
        let pixel = pixel.demultiply();
        [pixel.red(), pixel.green(), pixel.blue(), pixel.alpha()]
    });
    RgbaImage::from_raw(wide, high, plain.collect()).ok_or_else(large)
}
