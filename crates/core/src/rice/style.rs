//! What a rice says of elements, as it is written; [`crate::style`] makes of it what is drawn.

use std::sync::LazyLock;

use jovrik_schema::catalogue::{KeySyntax, Setting, SettingShape, table_of};
use jovrik_schema::{Colour, Points, Px, ReadCursor, SettingReader, Tree, settings};
use jovrik_text::{FileId, Ordered, Source};
use jovrik_toml::parse;
use jovrik_values::{Align, BorderStyle, Corners, Fill, Opacity, Sides};

settings! {
    /// how an element looks; element by element, as bar.module
    pub struct StyleRule {
        /// the colour of its text
        #[also = "text color, text colour, foreground, font color"]
        ink: Option<Colour>,
        /// the face of its text
        /// "DejaVu Serif"
        #[also = "typeface"]
        font: Option<String>,
        /// the size of its text
        /// 9
        #[also = "font size"]
        size: Option<Points>,
        /// whether its text is bold
        #[also = "font weight"]
        bold: Option<bool>,
        /// whether its text is underlined
        underline: Option<bool>,
        /// where its text stands when there is more room
        #[also = "alignment"]
        align: Option<Align>,
        /// what it is filled with
        #[also = "background color, background colour, background"]
        fill: Option<Fill>,
        /// the line along its edge
        #[also = "border, outline"]
        line: Option<BorderStyle>,
        /// how round its corners are
        #[also = "round corners, rounding, corner radius"]
        radius: Option<Corners>,
        /// from its edge to what is in it
        #[also = "padding"]
        pad: Option<Sides>,
        /// between the things in it
        /// 8
        #[also = "spacing"]
        gap: Option<Px<0, 200>>,
        /// how much of it covers what is below
        #[also = "translucent, alpha, see-through, transparency, bar transparency, transparent bar"]
        opacity: Option<Opacity>,
        /// the least room it takes along its bar or list
        /// 48
        #[also = "min width"]
        min: Option<Px<0, 4000>>,
        /// the most room it takes along its bar or list
        /// 320
        #[also = "max width"]
        max: Option<Px<0, 4000>>,
    }
}

/// The properties that text in an element takes from the element around it.
pub const TEXT_PROPERTIES: &[&str] = &["ink", "font", "size", "bold", "underline", "align"];

/// The styles that are there before a rice says anything.
pub const BUILT_IN_STYLES: &str = include_str!("../style/built-in.toml");

/// What is said of each element, by its path such as `bar.module.warn`: what the rice says, else what is built in.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct StyleSheet(pub Ordered<String, StyleRule>);

impl StyleRule {
    /// Takes over what is not set here.
    fn or(self, below: StyleRule) -> StyleRule {
        StyleRule {
            ink: self.ink.or(below.ink),
            font: self.font.or(below.font),
            size: self.size.or(below.size),
            bold: self.bold.or(below.bold),
            underline: self.underline.or(below.underline),
            align: self.align.or(below.align),
            fill: self.fill.or(below.fill),
            line: self.line.or(below.line),
            radius: self.radius.or(below.radius),
            pad: self.pad.or(below.pad),
            gap: self.gap.or(below.gap),
            opacity: self.opacity.or(below.opacity),
            min: self.min.or(below.min),
            max: self.max.or(below.max),
        }
    }
}

fn walk(reader: &mut SettingReader<'_>, at: &ReadCursor<'_>, path: &mut Vec<String>, out: &mut Ordered<String, StyleRule>) {
    let Some(branch) = at.tree.and_then(Tree::branch) else { return };
    let table = table_of(StyleRule::SHAPE);
    if branch.entries.keys().any(|name| table.field(name).is_some()) && !path.is_empty() {
        let rule = StyleRule::read(reader, at);
        out.insert(path.join("."), rule);
    }
    for (name, tree) in &branch.entries {
        if table.field(name).is_none() && tree.branch().is_some() {
            path.push(name.clone());
            walk(reader, &at.field(name, None), path, out);
            path.pop();
        }
    }
}

/// What is built in of a property, by the steps of its path below `style`.
pub fn built_in_style(steps: &[&str]) -> Option<String> {
    let tree = &BUILT_IN;
    let path: Vec<&str> = std::iter::once("style").chain(steps.iter().copied()).collect();
    tree.branch()?.get(&path).and_then(Tree::leaf).map(|leaf| leaf.node.to_toml())
}

/// The built-in styles, read once.
static BUILT_IN: LazyLock<Tree> = LazyLock::new(|| {
    let mut sources = jovrik_text::Sources::default();
    let source = Source::new("built-in", BUILT_IN_STYLES);
    let table = parse(FileId::BUILT_IN, &source, &mut Vec::new());
    sources.add(source);
    let mut merger = jovrik_schema::Merger::new(&sources, "Super");
    merger.lay(table, super::Rice::CATALOGUE, jovrik_schema::ConfigLayer::Parts);
    Tree::Branch(std::mem::take(&mut merger.tree))
});

/// The built-in styles in the colours of the palette that the reader has.
fn built_in(reader: &mut SettingReader<'_>) -> Ordered<String, StyleRule> {
    let mut out = Ordered::default();
    // What is built in has no problems; a test holds it to that.
    let before = reader.problems.len();
    let top = ReadCursor::top(&BUILT_IN);
    walk(reader, &top.field("style", None), &mut Vec::new(), &mut out);
    reader.problems.truncate(before);
    out
}

impl Setting for StyleSheet {
    const SHAPE: SettingShape = SettingShape::Named(KeySyntax::Elements, &StyleRule::SHAPE);

    fn read(reader: &mut SettingReader<'_>, at: &ReadCursor<'_>) -> Self {
        let mut rules = built_in(reader);
        let mut own = Ordered::default();
        walk(reader, at, &mut Vec::new(), &mut own);
        for (path, rule) in own {
            let below = rules.shift_remove(&path);
            rules.insert(
                path,
                match below {
                    Some(below) => rule.or(below),
                    None => rule,
                },
            );
        }
        StyleSheet(rules)
    }
}
