//! Where the keys of common keyboards lie: for distances, and for drawings.

use std::collections::HashMap;
use std::sync::OnceLock;

/// A key in its place.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Spot {
    /// Its XKB key name: `AD01`.
    pub name: &'static str,
    /// Its left edge, in key widths from the left of the number row.
    pub x: f32,
    /// Its upper edge, in key widths below that of the number row.
    pub y: f32,
    /// Its width, in key widths.
    pub w: f32,
    /// Its height, in key widths.
    pub h: f32,
}

/// The places of all keys of one kind of keyboard.
#[derive(Debug)]
pub struct Geometry {
    /// The keys, row by row.
    pub spots: Vec<Spot>,
    by_name: HashMap<&'static str, usize>,
}

/// A run of keys: its left edge, its upper edge, and the names, a width behind those that are not one wide.
type Run = (f32, f32, &'static str);

/// What both kinds share.
const COMMON: &[Run] = &[
    (0.0, -1.5, "ESC"),
    (2.0, -1.5, "FK01 FK02 FK03 FK04"),
    (6.5, -1.5, "FK05 FK06 FK07 FK08"),
    (11.0, -1.5, "FK09 FK10 FK11 FK12"),
    (15.25, -1.5, "PRSC SCLK PAUS"),
    (0.0, 0.0, "TLDE AE01 AE02 AE03 AE04 AE05 AE06 AE07 AE08 AE09 AE10 AE11 AE12 BKSP:2"),
    (15.25, 0.0, "INS HOME PGUP"),
    (18.5, 0.0, "NMLK KPDV KPMU KPSU"),
    (0.0, 1.0, "TAB:1.5 AD01 AD02 AD03 AD04 AD05 AD06 AD07 AD08 AD09 AD10 AD11 AD12"),
    (15.25, 1.0, "DELE END PGDN"),
    (18.5, 1.0, "KP7 KP8 KP9"),
    (0.0, 2.0, "CAPS:1.75 AC01 AC02 AC03 AC04 AC05 AC06 AC07 AC08 AC09 AC10 AC11"),
    (18.5, 2.0, "KP4 KP5 KP6"),
    (2.25, 3.0, "AB01 AB02 AB03 AB04 AB05 AB06 AB07 AB08 AB09 AB10 RTSH:2.75"),
    (16.25, 3.0, "UP"),
    (18.5, 3.0, "KP1 KP2 KP3"),
    (0.0, 4.0, "LCTL:1.25 LWIN:1.25 LALT:1.25 SPCE:6.25 RALT:1.25 RWIN:1.25 COMP:1.25 RCTL:1.25"),
    (15.25, 4.0, "LEFT DOWN RGHT"),
    (18.5, 4.0, "KP0:2 KPDL"),
];

/// One long key on the left of the lower letters more, and a high Return.
const ISO: &[Run] = &[(12.75, 2.0, "BKSL"), (0.0, 3.0, "LFSH:1.25 LSGT")];
/// A wide Return, and the backslash over it.
const ANSI: &[Run] = &[(13.5, 1.0, "BKSL:1.5"), (12.75, 2.0, "RTRN:2.25"), (0.0, 3.0, "LFSH:2.25")];
/// Keys that are two high.
const HIGH: &[Spot] =
    &[Spot { name: "KPAD", x: 21.5, y: 1.0, w: 1.0, h: 2.0 }, Spot { name: "KPEN", x: 21.5, y: 3.0, w: 1.0, h: 2.0 }];

impl Geometry {
    /// That of an XKB model: the ANSI one for `pc101` and `pc104`, else the ISO one.
    pub fn of_model(model: &str) -> &'static Geometry {
        static ISO_ONE: OnceLock<Geometry> = OnceLock::new();
        static ANSI_ONE: OnceLock<Geometry> = OnceLock::new();
        if matches!(model, "pc101" | "pc104") {
            ANSI_ONE.get_or_init(|| Geometry::of(ANSI, &[]))
        } else {
            let high_return = Spot { name: "RTRN", x: 13.75, y: 1.0, w: 1.25, h: 2.0 };
            ISO_ONE.get_or_init(|| Geometry::of(ISO, &[high_return]))
        }
    }

    fn of(own: &'static [Run], high: &[Spot]) -> Geometry {
        let mut spots = Vec::new();
        for (left, y, names) in COMMON.iter().chain(own) {
            let mut x = *left;
            for word in names.split(' ') {
                let (name, w) = word.split_once(':').map_or((word, 1.0), |(name, w)| (name, w.parse().unwrap_or(1.0)));
                spots.push(Spot { name, x, y: *y, w, h: 1.0 });
                x += w;
            }
        }
        spots.extend(HIGH.iter().chain(high));
        let by_name = spots.iter().enumerate().map(|(at, spot)| (spot.name, at)).collect();
        Geometry { spots, by_name }
    }

    /// The place of a key.
    pub fn spot(&self, name: &str) -> Option<&Spot> {
        self.by_name.get(name).map(|at| &self.spots[*at])
    }
}

impl Spot {
    /// Its centre.
    pub fn centre(&self) -> (f32, f32) {
        (self.x + self.w / 2.0, self.y + self.h / 2.0)
    }

    /// From the centre of this key to that of another, in hundredths of a key width.
    pub fn distance(&self, other: &Spot) -> i64 {
        let ((ax, ay), (bx, by)) = (self.centre(), other.centre());
        (f64::from(ax - bx).hypot(f64::from(ay - by)) * 100.0).round() as i64
    }
}
