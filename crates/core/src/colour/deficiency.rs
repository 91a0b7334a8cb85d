//! How colours look to those who see fewer of them: Machado, Oliveira and Fernandes (2009), at full severity, applied to
//! linear light.

use jovrik_schema::Colour;

use crate::rice::Palette;

/// A deficiency of colour vision.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Deficiency {
    /// Without long-wave cones.
    Protan,
    /// Without middle-wave cones.
    Deutan,
    /// Without short-wave cones.
    Tritan,
}

impl Deficiency {
    /// The three common ones.
    pub const ALL: [Deficiency; 3] = [Deficiency::Protan, Deficiency::Deutan, Deficiency::Tritan];

    /// What it is called.
    pub fn word(self) -> &'static str {
        match self {
            Deficiency::Protan => "protanopia",
            Deficiency::Deutan => "deuteranopia",
            Deficiency::Tritan => "tritanopia",
        }
    }

    fn matrix(self) -> [[f64; 3]; 3] {
        match self {
            Deficiency::Protan => {
                [[0.152286, 1.052583, -0.204868], [0.114503, 0.786281, 0.099216], [-0.003882, -0.048116, 1.051998]]
            }
            Deficiency::Deutan => {
                [[0.367322, 0.860646, -0.227968], [0.280085, 0.672501, 0.047413], [-0.011820, 0.042940, 0.968881]]
            }
            Deficiency::Tritan => {
                [[1.255528, -0.076749, -0.178779], [-0.078411, 0.930809, 0.147602], [0.004733, 0.691367, 0.303900]]
            }
        }
    }

    /// How a colour looks.
    pub fn seen(self, colour: Colour) -> Colour {
        let linear = |channel: u8| {
            let value = f64::from(channel) / 255.0;
            if value <= 0.04045 { value / 12.92 } else { ((value + 0.055) / 1.055).powf(2.4) }
        };
        let back = |value: f64| {
            let value = value.clamp(0.0, 1.0);
            let value = if value <= 0.0031308 { value * 12.92 } else { 1.055 * value.powf(1.0 / 2.4) - 0.055 };
            (value * 255.0).round() as u8
        };
        let light = [linear(colour.r), linear(colour.g), linear(colour.b)];
        let [r, g, b] = self.matrix().map(|row| back(row.iter().zip(light).map(|(a, b)| a * b).sum()));
        Colour { r, g, b, a: colour.a }
    }
}

/// How far two colours are apart in Oklab; 0.02 is about what an eye can tell side by side.
pub fn difference(a: Colour, b: Colour) -> f32 {
    let lab = |colour: Colour| {
        let [light, chroma, hue, _] = colour.to_oklch();
        let (sin, cos) = (hue * std::f32::consts::TAU).sin_cos();
        [light, chroma * cos, chroma * sin]
    };
    let (a, b) = (lab(a), lab(b));
    (0..3).map(|at| (a[at] - b[at]).powi(2)).sum::<f32>().sqrt()
}

/// Closer than this, colours that say something are taken for each other.
const ALIKE: f32 = 0.07;

/// The pairs of roles that say something, and look alike with a deficiency: both names and how far they are apart.
pub fn alike(palette: &Palette, deficiency: Deficiency) -> Vec<(&'static str, &'static str, f32)> {
    const SAYING: [&str; 5] = ["accent", "calm", "good", "warn", "alert"];
    let mut found = Vec::new();
    for (at, a) in SAYING.iter().enumerate() {
        for b in &SAYING[at + 1..] {
            let (Some(first), Some(second)) = (palette.role(a), palette.role(b)) else { continue };
            let apart = difference(deficiency.seen(first), deficiency.seen(second));
            // What looks alike to everybody is not the deficiency's doing.
            if apart < ALIKE && difference(first, second) >= ALIKE {
                found.push((*a, *b, apart));
            }
        }
    }
    found
}
