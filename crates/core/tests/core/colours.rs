//! Palettes out of pictures, how they are seen, and how they are written for others.

use jovrik_core::colour::{
    ColourScheme, Deficiency, Format, alike, clusters, difference, export, literals, nearest_role, palette_of, terminal_colours,
};
use jovrik_core::rice::Palette;
use jovrik_core::style::contrast;
use jovrik_schema::Colour;
use proptest::prelude::*;

use crate::{checked, found};

fn css(text: &str) -> Colour {
    Colour::css(text).expect("a colour")
}

/// The roles that colour text, beside ink.
const OTHERS: [&str; 6] = ["muted", "accent", "calm", "good", "warn", "alert"];

fn legible(palette: &Palette) -> Result<(), String> {
    let ink = contrast(palette.ink, palette.paper);
    if ink < 7.0 {
        return Err(format!("ink {ink}"));
    }
    for role in OTHERS {
        let found = contrast(palette.role(role).expect("a role"), palette.paper);
        if found < 4.5 {
            return Err(format!("{role} {found}"));
        }
    }
    Ok(())
}

#[test]
fn main_colours_are_found_with_their_shares_and_the_same_each_time() {
    let flat = [(css("#203040"), 600), (css("#e0c060"), 300), (css("#c03020"), 100)];
    let pixels = || flat.iter().flat_map(|(colour, count)| std::iter::repeat_n(*colour, *count));
    let found = clusters(pixels(), 8);
    let told: Vec<String> = found.iter().map(|one| format!("{} {:.1}", one.colour.hex(), one.share)).collect();
    assert_eq!(told, ["#203040 0.6", "#e0c060 0.3", "#c03020 0.1"]);
    assert_eq!(found, clusters(pixels(), 8));
    assert_eq!(clusters(pixels(), 2).len(), 2);
    assert_eq!(clusters([], 8), []);
    assert_eq!(clusters([Colour { a: 0, ..css("red") }], 8), [], "what is not seen has no colour");
}

#[test]
fn a_palette_is_dark_or_light_as_its_picture_unless_that_is_said() {
    let dark = clusters([css("#101c1f"), css("#101c1f"), css("#74d4b1")], 4);
    let light = clusters([css("#f6f3ec"), css("#f6f3ec"), css("#006758")], 4);
    let luminous = |palette: &Palette| palette.paper.to_oklch()[0] > 0.5;
    assert!(!luminous(&palette_of(&dark, None)) && luminous(&palette_of(&light, None)));
    assert!(luminous(&palette_of(&dark, Some(ColourScheme::Light))) && !luminous(&palette_of(&light, Some(ColourScheme::Dark))));
    let accent = palette_of(&dark, None).accent;
    assert!(difference(accent, css("#74d4b1")) < 0.05, "the liveliest colour is the accent: {}", accent.hex());
}

proptest! {
    #[test]
    fn whatever_the_picture_its_text_can_be_read(
        pixels in proptest::collection::vec((any::<u8>(), any::<u8>(), any::<u8>()), 1..60),
        ground in proptest::option::of(any::<bool>()),
    ) {
        let pixels = pixels.into_iter().map(|(r, g, b)| Colour { r, g, b, a: 255 });
        let ground = ground.map(|dark| if dark { ColourScheme::Dark } else { ColourScheme::Light });
        let palette = palette_of(&clusters(pixels, 12), ground);
        prop_assert_eq!(legible(&palette), Ok(()));
    }
}

#[test]
fn deficiencies_leave_greys_alone_and_make_red_and_green_alike() {
    for deficiency in Deficiency::ALL {
        let grey = deficiency.seen(css("#808080"));
        assert!(difference(grey, css("#808080")) < 0.01, "{deficiency:?} {}", grey.hex());
    }
    let part = "[palette.ebb]\ngood = \"#00a000\"\nalert = \"#c06000\"\naccent = \"#4060ff\"\n";
    let palette = checked(part).rice.palette.current.clone();
    let pairs = |deficiency| alike(&palette, deficiency).into_iter().map(|(a, b, _)| (a, b)).collect::<Vec<_>>();
    assert!(pairs(Deficiency::Deutan).contains(&("good", "alert")), "{:?}", pairs(Deficiency::Deutan));
    assert!(!pairs(Deficiency::Tritan).contains(&("good", "alert")), "{:?}", pairs(Deficiency::Tritan));
}

#[test]
fn a_palette_is_written_as_others_read_it() {
    let palette = checked("").rice.palette.current.clone();
    assert!(export("ebb", &palette, Format::Css).contains("  --accent: #74d4b1;\n"));
    let json: serde_json::Value = serde_json::from_str(&export("ebb", &palette, Format::Json)).expect("JSON");
    assert_eq!((json["name"].as_str(), json["colours"]["ink"].as_str()), (Some("ebb"), Some("#d9e6e5")));
    assert_eq!(json["colours"]["term"].as_array().map(Vec::len), Some(16));
    assert!(export("ebb", &palette, Format::Xresources).contains("*color15: #d9e6e5\n"));
    assert!(export("ebb", &palette, Format::Gpl).contains("\n116 212 177\taccent\n"));
    let sequences = export("ebb", &palette, Format::Terminal);
    assert_eq!(sequences.matches("\x1b]4;").count(), 16);
    assert!(sequences.contains("\x1b]11;rgb:10/1c/1f\x1b\\"));
    let own: Vec<String> = (0..16).map(|nth| format!("\"#0000{nth:02x}\"")).collect();
    let part = format!("[palette.ebb]\nterm = [{}]\n", own.join(", "));
    let own = checked(&part);
    assert_eq!(found(&own), Vec::<String>::new());
    assert_eq!(terminal_colours(&own.rice.palette.current)[9], Colour { r: 0, g: 0, b: 9, a: 255 });
}

#[test]
fn written_out_colours_are_found_and_know_their_nearest_role() {
    let part = "[frame]\nactive = \"#75d4b0\"\nidle = \"#304044\"\n[palette.ebb]\nink = \"#d9e6e5\"\n[style.bar]\nfill = \"linear-gradient(90deg, #101c1f, @raise, #fff8)\"\n[workspaces]\norder = [\"#1\"]\n";
    let checked = checked(part);
    let told: Vec<String> = literals(&checked.tree)
        .iter()
        .map(|literal| {
            let (role, apart) = nearest_role(&checked.rice.palette.current, literal.colour).expect("roles");
            format!("{} {} {role} {apart:.2}", literal.path, literal.written)
        })
        .collect();
    assert_eq!(
        told,
        [
            "frame.active #75d4b0 accent 0.00",
            "frame.idle #304044 line 0.00",
            "style.bar.fill #101c1f paper 0.00",
            "style.bar.fill #fff8 ink 0.09",
        ]
    );
}
