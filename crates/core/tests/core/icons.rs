//! Icons that we draw: on their grid, each another one, at any size; and what stands in for those that are not ours.

use jovrik_core::bar::StyledIcon;
use jovrik_core::rice::Rice;
use jovrik_core::scene::{PathSegment, Primitive, Scene, THEMED, draw_icon, icon_face, icon_path};
use jovrik_core::style::{StyledElement, resolve};
use jovrik_values::{Icon, IconRef};

use crate::{checked, found};

/// Points along a path: its corners, and ten on each curve (cubic, by Bernstein's polynomials).
fn points(path: &[PathSegment]) -> Vec<(f32, f32)> {
    let (mut all, mut at) = (Vec::new(), (0.0, 0.0));
    for step in path {
        match *step {
            PathSegment::Move(x, y) | PathSegment::Line(x, y) => {
                at = (x, y);
                all.push(at);
            }
            PathSegment::Curve(ax, ay, bx, by, x, y) => {
                for nth in 0..=10 {
                    let (t, u) = (nth as f32 / 10.0, 1.0 - nth as f32 / 10.0);
                    let mix = |p: f32, a: f32, b: f32, q: f32| {
                        u * u * u * p + 3.0 * u * u * t * a + 3.0 * u * t * t * b + t * t * t * q
                    };
                    all.push((mix(at.0, ax, bx, x), mix(at.1, ay, by, y)));
                }
                at = (x, y);
            }
            PathSegment::Close => {}
        }
    }
    all
}

fn sign(rice: &Rice, icon: IconRef, size: f32) -> StyledIcon {
    let style = resolve(rice, &[StyledElement { kind: "bar", name: "", states: &[] }]);
    StyledIcon { icon, size, width: size, style }
}

#[test]
fn each_is_drawn_within_its_grid_and_is_another_one() {
    let mut seen: Vec<(Icon, Vec<PathSegment>)> = Vec::new();
    for icon in Icon::ALL.iter().copied().filter(|icon| *icon != Icon::None) {
        let path = icon_path(icon);
        assert!(matches!(path.first(), Some(PathSegment::Move(..))), "{icon:?} begins somewhere");
        // A stroke of 1.5 reaches three quarters beyond its line.
        for (x, y) in points(&path) {
            assert!((0.75..=15.25).contains(&x) && (0.75..=15.25).contains(&y), "{icon:?}: {x}, {y}");
        }
        let (xs, ys): (Vec<f32>, Vec<f32>) = points(&path).into_iter().unzip();
        let wide = |all: &[f32]| all.iter().copied().fold(0.0, f32::max) - all.iter().copied().fold(16.0, f32::min);
        assert!(wide(&xs).max(wide(&ys)) >= 8.0, "{icon:?} fills half of the grid");
        if let Some((other, _)) = seen.iter().find(|(_, other)| *other == path) {
            panic!("{icon:?} is {other:?}");
        }
        seen.push((icon, path));
    }
    assert_eq!(icon_path(Icon::None), []);
    assert_eq!(seen.len(), Icon::ALL.len() - 1);
}

#[test]
fn each_is_named_in_a_rice_by_its_word() {
    for icon in Icon::ALL {
        let part = format!("[module.a]\nsource = \"time\"\nicon = \"{}\"\n", icon.word());
        let checked = checked(&part);
        assert_eq!(found(&checked), Vec::<String>::new(), "{part}");
        assert_eq!(checked.rice.module["a"].icon, IconRef::Drawn(*icon));
    }
    let near = checked("[module.a]\nsource = \"time\"\nicon = \"speeker\"\n");
    assert_eq!(found(&near).len(), 1);
    assert!(near.problems[0].marks[0].note.contains("speaker"), "{:?}", near.problems[0].marks);
}

#[test]
fn at_any_size_it_lies_in_its_square() {
    let rice = checked("").rice;
    for size in [8.0, 13.0, 16.0, 24.0, 48.0, 256.0] {
        for icon in Icon::ALL {
            let mut scene = Scene::default();
            draw_icon(&rice, &sign(&rice, IconRef::Drawn(*icon), size), 100.0, 50.0, &mut scene);
            for item in &scene.items {
                let Primitive::Stroke { path, width, .. } = item else { panic!("{item:?}") };
                assert!(*width > 0.0 && *width <= size / 4.0, "{icon:?} at {size}: {width}");
                for (x, y) in points(path) {
                    let inside = (100.0..=100.0 + size).contains(&x) && (50.0..=50.0 + size).contains(&y);
                    assert!(inside, "{icon:?} at {size}: {x}, {y}");
                }
            }
        }
    }
}

#[test]
fn pictures_characters_and_those_of_a_theme_are_drawn_as_what_they_are() {
    let rice = checked("[type]\ntext = \"Estuary Sans\"\n").rice;
    let drawn = |icon: IconRef| {
        let mut scene = Scene::default();
        draw_icon(&rice, &sign(&rice, icon, 16.0), 10.0, 20.0, &mut scene);
        scene.items
    };
    let [Primitive::Picture { rect, path, otherwise, .. }] = &drawn(IconRef::Picture("art/gull.png".to_owned()))[..] else {
        panic!()
    };
    assert_eq!((rect.x, rect.y, rect.w, rect.h, path.as_str(), otherwise.len()), (10.0, 20.0, 16.0, 16.0, "art/gull.png", 0));
    let [Primitive::Picture { path, otherwise, .. }] = &drawn(IconRef::Themed("gull".to_owned(), Icon::Letter))[..] else {
        panic!()
    };
    assert_eq!(*path, format!("{THEMED}gull"));
    assert!(matches!(otherwise.as_slice(), [Primitive::Stroke { .. }]), "where the theme has none, ours is drawn");
    let [Primitive::Text { text, face, y, .. }] = &drawn(IconRef::Character("☂".to_owned()))[..] else { panic!() };
    assert_eq!((text.as_str(), face.family.as_str(), *y), ("☂", "Estuary Sans", 28.0), "in the middle of its square");
    assert_eq!(drawn(IconRef::App), [], "that of a window is found first");
    // A face of its own for characters is used where there is one.
    let own = checked("[type]\nicon = \"Estuary Symbols\"\n").rice;
    assert_eq!(icon_face(&own, 16.0).family, "Estuary Symbols");
    assert!(icon_face(&own, 32.0).points > icon_face(&own, 16.0).points);
}
