//! What the desktop looks like beside its colours: type, gaps, frames, backdrop.

use jovrik_schema::catalogue::{AtomicSetting, Capability, ValueConstraint, ValueType};
use jovrik_schema::{Colour, Points, Px, SettingReader, TimeSpan, named_value, settings};
use jovrik_toml::{SpannedValue, TomlValue, ValueError};
use jovrik_values::Fill;

settings! {
    /// fonts
    pub struct FontSettings {
        /// the face of text
        /// "DejaVu Serif"
        #[also = "font, typeface, font family, face"]
        text: String = "DejaVu Sans",
        /// the face of terminals and code
        /// "FreeMono"
        #[also = "monospace font, terminal font, code font, fixed width"]
        mono: String = "DejaVu Sans Mono",
        /// the face of icons that are characters; none means the face of text
        /// "DejaVu Sans Mono"
        #[also = "icon font, symbols font, glyphs"]
        icon: String = "",
        /// the size of text
        #[also = "font size, text size, bigger text"]
        size: Points = 11,
    }
}

settings! {
    /// gaps
    pub struct GapSettings {
        /// between windows
        #[also = "gap, gaps, inner gaps, gaps between windows, spacing"]
        between: Px<0, 200> = 8,
        /// to the edge of the screen
        #[also = "outer gaps, margin, screen edge, padding"]
        edge: Px<0, 200> = 12,
        /// to the edge, with one window
        #[also = "smart gaps, single window gaps, no gaps with one window"]
        alone: Px<0, 200> = 0,
    }
}

settings! {
    /// the soft edge round the focused window
    pub struct Glow {
        /// how far it reaches
        #[also = "shadow, glow size, halo, blur, blur radius"]
        width: Px<0, 64> = 0,
        /// its colour where it is strongest
        #[also = "shadow color, shadow colour, glow colour"]
        fill: Colour = "@accent/40%",
    }
}

settings! {
    /// borders of windows
    pub struct Frame {
        /// how thick they are
        #[also = "border, border width, border size, thickness, outline"]
        width: Px<0, 64> = 2,
        /// how round their corners are
        #[also = "rounding, rounded corners, corner, corner radius, round, border radius"]
        radius: Px<0, 64> = 8,
        /// the focused window's colour
        #[also = "border color, border colour, focused border, active border, gradient border, gradient"]
        active: Fill = "@accent",
        /// the other windows' colour
        #[also = "inactive border, unfocused border color, border colour"]
        idle: Fill = "@line",
        /// the colour of a window that calls
        #[also = "urgent border"]
        urgent: Fill = "@alert",
        /// the soft edge round the focused one
        glow: Glow,
    }
}

named_value! {
    /// What is drawn on the backdrop.
    pub enum BackdropPattern as "drawing" {
        /// Just the fill.
        Plain = "plain",
        /// Contour lines of a mudflat.
        Contours = "contours",
    }
}

/// The picture behind the windows: one, a folder of them, or one from each of some hours of the day on.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct BackdropImages(pub Vec<(u8, String)>);

impl AtomicSetting for BackdropImages {
    const KIND: ValueType = ValueType {
        name: "picture",
        unit: "",
        allowed: ValueConstraint::Any,
        example: "\"art/mudflat.png\"",
        reach: Capability::None,
        fields: &[],
    };
    fn from_node(node: &SpannedValue, reader: &SettingReader<'_>) -> Result<Self, ValueError> {
        let expected = || {
            ValueError::kind(
                "expected a picture or a folder in the rice, or one by hour: { 6 = \"art/day.png\", 20 = \"art/night.png\" }",
            )
        };
        let TomlValue::Table(entries) = &node.value else {
            return node.text().map(|path| BackdropImages(vec![(0, path.to_owned())])).ok_or_else(expected);
        };
        let one = |(hour, node): &(String, SpannedValue)| {
            let mut at = node.clone();
            at.span = node.key;
            let hour = hour.parse().ok().filter(|hour| *hour < 24).ok_or_else(|| expected().within(&at))?;
            Ok((hour, String::from_node(node, reader).map_err(|wrong| wrong.within(node))?))
        };
        entries.iter().map(one).collect::<Result<_, _>>().map(BackdropImages)
    }
}

named_value! {
    /// Which picture of a folder comes next.
    pub enum PictureOrder as "order" {
        /// The next by its name.
        Name = "by-name",
        /// Any.
        Chance = "by-chance",
    }
}

named_value! {
    /// How a picture fits a monitor of another shape.
    pub enum Fit as "fit" {
        /// Over all of it; what does not fit is cut off.
        Cover = "cover",
        /// All of the picture, with the fill beside it.
        Contain = "contain",
        /// Over all of it, out of its shape.
        Stretch = "stretch",
        /// Side by side, at its own size.
        Tile = "tile",
        /// In the middle, at its own size.
        Centre = "centre",
    }
}

settings! {
    /// what lies behind the windows of one monitor or workspace
    pub struct BackdropOverride {
        /// its colour
        #[also = "background color"]
        fill: Option<Fill>,
        /// a picture, a folder of pictures, or pictures by the hour of the day; of the rice, or of the home as ~/Pictures/shore.png
        #[also = "wallpaper"]
        picture: Option<BackdropImages>,
        /// how long one picture of a folder stays
        change: Option<TimeSpan> => Unimplemented,
        /// how a picture fits a monitor of another shape
        fit: Fit = "=backdrop.fit",
    }
}

settings! {
    /// what lies behind the windows
    pub struct BackdropSettings {
        /// what it is filled with
        /// "linear-gradient(180deg, @paper, @raise)"
        #[also = "background color, background colour, desktop background, gradient background, gradient"]
        fill: Fill = "@paper",
        /// a picture, a folder of pictures, or pictures by the hour of the day; of the rice, or of the home as ~/Pictures/shore.png
        #[also = "wallpaper, background, background image, desktop picture"]
        picture: Option<BackdropImages>,
        /// how long one picture of a folder stays
        /// "30m"
        #[also = "slideshow, wallpaper interval, change wallpaper, rotate wallpapers"]
        change: Option<TimeSpan>,
        /// which picture of a folder comes next
        #[also = "shuffle, random wallpaper"]
        order: PictureOrder = "by-name",
        /// how a picture fits a monitor of another shape
        #[also = "wallpaper scaling, stretch, fill, centre, tile"]
        fit: Fit = "cover",
        /// what is drawn on it
        #[also = "pattern, drawn background"]
        draw: BackdropPattern = "plain",
        /// the colour of what is drawn
        #[also = "pattern color"]
        line: Colour = "@line/50%",
    }
}
