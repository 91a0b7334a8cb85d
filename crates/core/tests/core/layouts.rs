use jovrik_core::desk::layout::{Ask, Layout, NoMain, Tile, split};
use jovrik_core::desk::{Area, MainChange, WindowId};
use jovrik_core::rice::{LayoutKind, LayoutRule, Length, Side, Whole};
use proptest::prelude::*;

use crate::checked;

/// What a rice says of a layout.
fn rule(kind: LayoutKind, side: Side, share: f64, mains: usize) -> LayoutRule {
    let plain = checked("[layout.x]\nkind = \"main\"\n").rice.layout["x"].clone();
    LayoutRule { kind, side, share: Length::Share(share), mains: Whole(mains as i64), ..plain }
}

fn tiles(count: usize) -> Vec<Tile> {
    (0..count).map(|nth| Tile { id: WindowId(nth as u32), least: (1, 1) }).collect()
}

/// The places that a layout gives so many windows.
fn placed(layout: &Layout, rule: &LayoutRule, area: Area, count: usize, gap: i32) -> Vec<Area> {
    let tiles = tiles(count);
    let given = layout.arrange(&Ask { area, tiles: &tiles, gap, focus: tiles.first().map(|tile| tile.id), rule });
    let ids: Vec<WindowId> = given.iter().map(|(id, _)| *id).collect();
    assert!(ids.is_sorted(), "in the order of tiling");
    given.into_iter().map(|(_, area)| area).collect()
}

fn tile(kind: LayoutKind, area: Area, count: usize, gap: i32) -> Vec<Area> {
    placed(&Layout::new(kind), &rule(kind, Side::Left, 0.5, 1), area, count, gap)
}

fn side() -> impl Strategy<Value = Side> {
    prop_oneof![Just(Side::Left), Just(Side::Right), Just(Side::Top), Just(Side::Bottom)]
}

proptest! {
    #![proptest_config(ProptestConfig { failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn main_and_grid_fill_their_area_exactly(grid in proptest::bool::ANY, x in -2000..2000i32, y in -2000..2000i32, w in 200..4000i32, h in 200..4000i32, count in 1..12usize, gap in 0..40i32, share in 0.05..0.95f64, mains in 1..5usize, side in side()) {
        let area = Area::new(x, y, w, h);
        let kind = if grid { LayoutKind::Grid } else { LayoutKind::Main };
        let tiles = placed(&Layout::new(kind), &rule(kind, side, share, mains), area, count, gap);
        prop_assert_eq!(tiles.len(), count);
        for (nth, tile) in tiles.iter().enumerate() {
            prop_assert!(tile.w > 0 && tile.h > 0);
            prop_assert_eq!(tile.overlap(area), Some(*tile), "inside");
            for other in &tiles[..nth] {
                prop_assert_eq!(tile.overlap(*other), None, "none overlaps");
            }
        }
        let edge = |pick: fn(&Area) -> i32| tiles.iter().map(pick);
        prop_assert_eq!(edge(|t| t.x).min(), Some(x));
        prop_assert_eq!(edge(|t| t.y).min(), Some(y));
        prop_assert_eq!(edge(|t| t.x + t.w).max(), Some(x + w));
        prop_assert_eq!(edge(|t| t.y + t.h).max(), Some(y + h));
        if gap == 0 {
            let covered: i64 = tiles.iter().map(|t| i64::from(t.w) * i64::from(t.h)).sum();
            prop_assert_eq!(covered, i64::from(w) * i64::from(h));
        }
    }

    #[test]
    fn what_is_left_beside_another_area_is_all_of_it_once(a in (0..40i32, 0..40i32, 1..40i32, 1..40i32), b in (0..40i32, 0..40i32, 1..40i32, 1..40i32)) {
        let (a, b) = (Area::new(a.0, a.1, a.2, a.3), Area::new(b.0, b.1, b.2, b.3));
        let pieces: Vec<Area> = a.minus(b).collect();
        for (x, y) in (-1..82).flat_map(|x| (-1..82).map(move |y| (x, y))) {
            let times = pieces.iter().filter(|piece| piece.contains(x, y)).count();
            prop_assert_eq!(times, usize::from(a.contains(x, y) && !b.contains(x, y)));
        }
        let both = a.union(b);
        prop_assert!(both.overlap(a) == Some(a) && both.overlap(b) == Some(b));
    }

    #[test]
    fn split_loses_no_pixel_and_gives_the_rest_to_the_first(length in 1..5000i32, count in 1..40usize, gap in 0..60i32) {
        let pieces = split(length, count, gap);
        prop_assert_eq!(pieces.len(), count);
        prop_assert!(pieces.iter().all(|(_, size)| *size >= 1));
        prop_assert!(pieces.windows(2).all(|pair| pair[0].1 >= pair[1].1 && pair[0].1 - pair[1].1 <= 1));
        let (at, size) = pieces[count - 1];
        prop_assert_eq!(at + size, length.max(1));
    }
}

#[test]
fn a_grid_is_as_even_as_can_be_and_its_last_row_fills_the_width() {
    let grid = |w, h, count| tile(LayoutKind::Grid, Area::new(0, 0, w, h), count, 10);
    let told = |tiles: Vec<Area>| tiles.iter().map(|t| format!("{}x{}+{}+{}", t.w, t.h, t.x, t.y)).collect::<Vec<_>>().join(" ");
    assert_eq!(told(grid(1010, 410, 4)), "500x200+0+0 500x200+510+0 500x200+0+210 500x200+510+210");
    assert_eq!(told(grid(1010, 410, 3)), "500x200+0+0 500x200+510+0 1010x200+0+210");
    assert_eq!(told(grid(410, 1010, 2)), "410x500+0+0 410x500+0+510", "high monitors have rows first");
}

#[test]
fn solo_shows_one_over_the_whole_area() {
    let area = Area::new(1, 2, 300, 200);
    assert_eq!(tile(LayoutKind::Solo, area, 3, 8), [area]);
    assert_eq!(tile(LayoutKind::Solo, area, 0, 8), []);
}

#[test]
fn a_main_area_is_changed_along_its_side_and_others_have_none() {
    let area = Area::new(0, 0, 1000, 400);
    let windows = tiles(3);
    for (side, long) in [(Side::Left, 1000), (Side::Top, 400)] {
        let rule = rule(LayoutKind::Main, side, 0.5, 1);
        let ask = Ask { area, tiles: &windows, gap: 0, focus: None, rule: &rule };
        let mut layout = Layout::new(LayoutKind::Main);
        let length = |layout: &Layout| {
            let first = layout.arrange(&ask)[0].1;
            if side == Side::Left { first.w } else { first.h }
        };
        layout.change(MainChange::Grow, &ask).expect("it has one");
        assert_eq!(length(&layout), long * 55 / 100);
        layout.change(MainChange::Shrink, &ask).expect("it has one");
        assert_eq!(length(&layout), long / 2, "the opposite undoes it");
        layout.change(MainChange::More, &ask).expect("it has one");
        assert_eq!(layout.mains(&rule), 2);
        layout.change(MainChange::Fewer, &ask).expect("it has one");
        layout.change(MainChange::Fewer, &ask).expect("it has one");
        assert_eq!(layout.mains(&rule), 1, "never none");
    }
    let rule = rule(LayoutKind::Grid, Side::Left, 0.5, 1);
    let ask = Ask { area, tiles: &windows, gap: 0, focus: None, rule: &rule };
    assert_eq!(Layout::new(LayoutKind::Grid).change(MainChange::Grow, &ask), Err(NoMain));
}

#[test]
fn three_hundred_windows_stay_in_the_area() {
    for kind in [LayoutKind::Main, LayoutKind::Grid, LayoutKind::Solo] {
        for area in [Area::new(5, 7, 1000, 760), Area::new(-20, 3, 90, 60)] {
            for tile in tile(kind, area, 300, 12) {
                assert_eq!(tile.overlap(area), Some(tile), "{kind:?}");
                let inner = tile.inset(4);
                assert_eq!(inner.overlap(tile), Some(inner), "nor does what is inside of the frame leave it");
            }
        }
    }
}
