//! How much of strangers is taken in: of a rice, of other programs, of other users. One table; `docs/security.md` shows it.

/// What becomes of what is more.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Beyond {
    /// The rest is cut off, and the beginning is used.
    Cut,
    /// It is left out, and the reason is told.
    LeftOut,
    /// It is refused, with the reason.
    Refused,
    /// The oldest of it goes.
    OldestGoes,
}

impl Beyond {
    /// In words that follow "what is more".
    pub fn words(self) -> &'static str {
        match self {
            Beyond::Cut => "is cut",
            Beyond::LeftOut => "is left out, and told",
            Beyond::Refused => "is refused, with the reason",
            Beyond::OldestGoes => "drives out the oldest",
        }
    }
}

/// The limit of one input.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Limit {
    /// Its name in the code.
    pub name: &'static str,
    /// Whose input it is.
    pub of: &'static str,
    /// What is limited.
    pub what: &'static str,
    /// How much of it is taken.
    pub most: usize,
    /// In what that is counted.
    pub unit: &'static str,
    /// What becomes of more.
    pub beyond: Beyond,
}

macro_rules! limits {
    ($( $of:literal { $( $name:ident = $most:expr, $unit:literal, $beyond:ident: $what:literal; )* } )*) => {
        $( $( #[doc = $what] pub const $name: usize = $most; )* )*

        /// Every limit, by whose input it is of.
        pub const LIMITS: &[Limit] = &[
            $( $( Limit { name: stringify!($name), of: $of, what: $what, most: $name, unit: $unit, beyond: Beyond::$beyond }, )* )*
        ];
    };
}

const KIB: usize = 1024;
const MIB: usize = 1024 * KIB;

limits! {
    "a rice" {
        SETTINGS_BYTES = 4 * MIB, "bytes", Refused: "a file of settings";
        SETTINGS_FILES = 500, "files", Refused: "the files of settings in a folder";
        RICE_FILES = 2000, "files", Refused: "the files of a rice that travel";
        RICE_BYTES = 64 * MIB, "bytes", Refused: "those together, and one of them";
        BUNDLE_PACKED = 64 * MIB, "bytes", Refused: "a bundle";
        BUNDLE_BYTES = 128 * MIB, "bytes", Refused: "what a bundle holds, unpacked";
        SETTING_TEXT = 64 * KIB, "bytes", Refused: "a text among the settings, or a name that somebody chose";
        MODULE_TEXT = 1000, "characters", Cut: "what a module shows";
        REFERENCE_STEPS = 32, "steps", Refused: "a chain of references";
        POSSIBLE_VALUES = 64, "values", Refused: "what one value of a stranger's rice may come to";
    }
    "a picture" {
        PICTURE_BYTES = 64 * MIB, "bytes", LeftOut: "a picture's file";
        PICTURE_PIXELS = 64 * MIB, "pixels", LeftOut: "a picture, shrunk while it is read";
        WHOLE_PIXELS = 24 * MIB, "pixels", LeftOut: "a picture that can only be read whole: JPEG, interlaced PNG";
        ICON_BYTES = 8 * MIB, "bytes", LeftOut: "the file of an icon";
        SVG_BYTES = MIB, "bytes", LeftOut: "a drawing (SVG); filters are not drawn at all";
        SVG_NODES = 20_000, "things drawn", LeftOut: "those of a drawing, each use counted";
        SVG_DEPTH = 64, "levels", LeftOut: "things in each other in a drawing";
        ASIDE_MILLISECONDS = 2000, "ms", LeftOut: "the time that drawing one takes, aside from the desktop";
        ASIDE_BYTES = 768 * MIB, "bytes", LeftOut: "the memory of whoever draws aside";
    }
    "programs on the bus" {
        BUS_TEXT = 2000, "characters", Cut: "a title, a body, a label, a name";
        BUS_BODY_BYTES = 16 * KIB, "bytes", Cut: "a body with its markup";
        BUS_FACTS = 64, "values", LeftOut: "the hints of a notice, the properties of an item";
        BUS_NAME = 100, "bytes", LeftOut: "the name of one of those";
        BUS_NEWS = 1000, "notices", OldestGoes: "those that wait to be heard; urgent ones stay";
        NOTICE_ACTIONS = 6, "actions", LeftOut: "the actions of a notice";
        NOTICES_KEPT = 100, "notices", OldestGoes: "those that are remembered";
        SENT_PICTURE_SIDE = 96, "pixels a side", Cut: "what is kept of a picture that is sent along, of at most 4096";
        TRAY_ITEMS = 64, "items", LeftOut: "the items of the tray, with those that are asked for";
        TRAY_PICTURE_SIDE = 512, "pixels a side", LeftOut: "the pictures of an item";
        MENU_LINES = 60, "lines", LeftOut: "the menu of an item";
        MENU_DEPTH = 4, "levels", LeftOut: "menus in each other";
    }
    "windows" {
        TITLE_TEXT = 1000, "characters", Cut: "a title";
        CLASS_TEXT = 200, "characters", Cut: "a class, an instance, a role";
        WINDOW_ICON_BYTES = 384 * KIB, "bytes", Cut: "what is read of the icons that a window brings along";
        KEPT_DESK_BYTES = 4 * MIB, "bytes", LeftOut: "what was kept on the root window";
    }
    "the socket" {
        PEERS = 64, "connections", OldestGoes: "those that are open at once";
        REQUEST_BYTES = 64 * KIB, "bytes", Refused: "a request, on a line";
        REQUESTS_AT_ONCE = 64, "requests", Cut: "those of one connection before the others have their turn";
        OFFER_BYTES = 8 * MIB, "bytes", Refused: "lines to choose from, with their request";
        OFFER_LINES = 50_000, "lines", Refused: "those lines";
        LINE_TEXT = 1000, "characters", Cut: "one of them, a prompt, what stands in any list to choose from";
    }
    "programs that were started" {
        LOG_BYTES = 256 * KIB, "bytes", OldestGoes: "what one says, in its file";
    }
}

/// The first so many characters of a text: only these are looked at.
pub fn cut(text: &str, most: usize) -> &str {
    // What has fewer bytes has no more characters.
    if text.len() <= most {
        return text;
    }
    text.char_indices().nth(most).map_or(text, |(end, _)| &text[..end])
}

/// The first so many bytes of a text, to the last whole character.
pub fn cut_bytes(text: &str, most: usize) -> &str {
    let mut end = most.min(text.len());
    while !text.is_char_boundary(end) {
        end -= 1;
    }
    &text[..end]
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_text_is_cut_at_whole_characters() {
        assert_eq!((cut("höher", 2), cut("höher", 9), cut("", 0), cut("潮", 0)), ("hö", "höher", "", ""));
        assert_eq!((cut_bytes("höher", 2), cut_bytes("höher", 3), cut_bytes("h", 9)), ("h", "hö", "h"));
    }

    #[test]
    fn each_limit_has_a_name_of_its_own() {
        let names: std::collections::HashSet<_> = LIMITS.iter().map(|limit| limit.name).collect();
        assert_eq!(names.len(), LIMITS.len());
        assert!(LIMITS.iter().all(|limit| limit.most > 0 && !limit.what.is_empty()));
    }
}
