use jovrik_core::desk::Area;
use jovrik_core::desk::layout::{Ask, split, tile};
use jovrik_core::rice::{LayoutKind, Length, Side};
use proptest::prelude::*;

fn side() -> impl Strategy<Value = Side> {
    prop_oneof![Just(Side::Left), Just(Side::Right), Just(Side::Top), Just(Side::Bottom)]
}

proptest! {
    #![proptest_config(ProptestConfig { failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn main_and_grid_fill_their_area_exactly(grid in proptest::bool::ANY, x in -2000..2000i32, y in -2000..2000i32, w in 200..4000i32, h in 200..4000i32, count in 1..12usize, gap in 0..40i32, share in 0.05..0.95f64, mains in 1..5usize, side in side()) {
        let area = Area::new(x, y, w, h);
        let ask = Ask { area, count, gap, side, share: Length::Share(share), mains };
        let tiles = tile(if grid { LayoutKind::Grid } else { LayoutKind::Main }, &ask);
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
    fn split_loses_no_pixel_and_gives_the_rest_to_the_first(length in 1..5000i32, count in 1..40usize, gap in 0..60i32) {
        let pieces = split(length, count, gap);
        prop_assert_eq!(pieces.len(), count);
        prop_assert!(pieces.iter().all(|(_, size)| *size >= 1));
        prop_assert!(pieces.windows(2).all(|pair| pair[0].1 >= pair[1].1 && pair[0].1 - pair[1].1 <= 1));
        let (at, size) = pieces[count - 1];
        if length >= count as i32 {
            prop_assert_eq!(at + size, length);
        }
    }
}

#[test]
fn a_grid_is_as_even_as_can_be_and_its_last_row_fills_the_width() {
    let ask =
        |w, h, count| Ask { area: Area::new(0, 0, w, h), count, gap: 10, side: Side::Left, share: Length::Share(0.5), mains: 1 };
    let told = |tiles: Vec<Area>| tiles.iter().map(|t| format!("{}x{}+{}+{}", t.w, t.h, t.x, t.y)).collect::<Vec<_>>().join(" ");
    assert_eq!(told(tile(LayoutKind::Grid, &ask(1010, 410, 4))), "500x200+0+0 500x200+510+0 500x200+0+210 500x200+510+210");
    assert_eq!(told(tile(LayoutKind::Grid, &ask(1010, 410, 3))), "500x200+0+0 500x200+510+0 1010x200+0+210");
    assert_eq!(told(tile(LayoutKind::Grid, &ask(410, 1010, 2))), "410x500+0+0 410x500+0+510", "high monitors have rows first");
}

#[test]
fn solo_gives_all_the_whole_area() {
    let area = Area::new(1, 2, 300, 200);
    let ask = Ask { area, count: 3, gap: 8, side: Side::Left, share: Length::Share(0.5), mains: 1 };
    assert_eq!(tile(LayoutKind::Solo, &ask), [area; 3]);
}
