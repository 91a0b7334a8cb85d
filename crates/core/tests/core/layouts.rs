use jovrik_core::desk::WindowId;
use jovrik_core::desk::layout::{AdjacentWindow, LayoutChange, LayoutError, LayoutInput, LayoutState, Tile, split, split_least};
use jovrik_core::rice::{ColumnReveal, LayoutKind, LayoutRule};
use jovrik_schema::{Integer, Length};
use jovrik_values::action::{ColumnChange, MainChange};
use jovrik_values::{PixelRect, Side};
use proptest::prelude::*;

use crate::checked;

/// What a rice says of a layout.
fn rule(kind: LayoutKind, side: Side, share: f64, mains: usize) -> LayoutRule {
    thread_local!(static PLAIN: LayoutRule = checked("[layout.x]\nkind = \"main\"\n").rice.layout["x"].clone());
    let plain = PLAIN.with(Clone::clone);
    LayoutRule { kind, side, share: Length::Share(share), mains: Integer(mains as i64), ..plain }
}

/// A workspace of windows with a layout.
struct Ground {
    layout: LayoutState,
    rule: LayoutRule,
    area: PixelRect,
    gap: i32,
    tiles: Vec<Tile>,
    focus: Option<WindowId>,
    next: u32,
}

impl Ground {
    fn new(rule: LayoutRule, area: PixelRect, gap: i32) -> Ground {
        Ground { layout: LayoutState::new(rule.kind), rule, area, gap, tiles: Vec::new(), focus: None, next: 0 }
    }

    fn of(kind: LayoutKind, area: PixelRect, count: usize, gap: i32) -> Ground {
        Ground::filled(rule(kind, Side::Left, 0.5, 1), area, count, gap)
    }

    fn filled(rule: LayoutRule, area: PixelRect, count: usize, gap: i32) -> Ground {
        let mut ground = Ground::new(rule, area, gap);
        (0..count).for_each(|_| ground.open((1, 1)));
        ground.focus = ground.tiles.first().map(|tile| tile.id);
        ground.settle();
        ground
    }

    /// Asks the layout, or the other way round, with all that it is asked for.
    fn ask<T>(&mut self, asks: impl FnOnce(&mut LayoutState, &LayoutInput<'_>) -> T) -> T {
        let Ground { layout, rule, area, gap, tiles, focus, .. } = self;
        let screen = PixelRect { x: area.x - 10, w: area.w + 20, ..*area };
        asks(layout, &LayoutInput { area: *area, screen, tiles, gap: *gap, strip: 30, focus: *focus, rule })
    }

    fn order(&mut self, order: &[WindowId]) {
        let at = |id: WindowId| order.iter().position(|other| *other == id);
        assert_eq!(order.len(), self.tiles.len(), "the same windows");
        self.tiles.sort_by_key(|tile| at(tile.id).expect("the same windows"));
    }

    fn settle(&mut self) {
        if let Some(order) = self.ask(|layout, ask| layout.settle(ask)) {
            self.order(&order);
            assert_eq!(self.ask(|layout, ask| layout.settle(ask)), None, "it has its way");
        }
    }

    /// A window appears after the focused one, and has the focus.
    fn open(&mut self, least: (i32, i32)) {
        let id = WindowId(self.next);
        self.next += 1;
        let after = self.tiles.iter().position(|tile| Some(tile.id) == self.focus).map_or(self.tiles.len(), |at| at + 1);
        self.tiles.insert(after, Tile { id, least });
        self.focus = Some(id);
        self.settle();
    }

    fn close(&mut self, nth: usize) {
        let gone = self.tiles.remove(nth);
        if self.focus == Some(gone.id) {
            self.focus = self.tiles.get(nth.saturating_sub(1)).map(|tile| tile.id);
        }
        self.settle();
    }

    fn change(&mut self, change: LayoutChange) -> Result<(), LayoutError> {
        let order = self.ask(|layout, ask| layout.change(change, ask))?;
        self.order(&order);
        self.settle();
        Ok(())
    }

    fn look(&mut self, nth: usize) {
        self.focus = self.tiles.get(nth).map(|tile| tile.id);
        self.settle();
    }

    fn beside(&mut self, side: Side) -> AdjacentWindow {
        self.ask(|layout, ask| layout.beside(side, ask))
    }

    /// The places of the windows that are seen.
    fn areas(&mut self) -> Vec<PixelRect> {
        self.laid().into_iter().map(|(_, area)| area).collect()
    }

    fn laid(&mut self) -> Vec<(WindowId, PixelRect)> {
        self.ask(|layout, ask| layout.arrange(ask)).tiles
    }

    fn told(&mut self) -> String {
        let one = |(id, t): (WindowId, PixelRect)| format!("{}:{}x{}+{}+{}", id.0, t.w, t.h, t.x, t.y);
        self.laid().into_iter().map(one).collect::<Vec<_>>().join(" ")
    }
}

fn tile(kind: LayoutKind, area: PixelRect, count: usize, gap: i32) -> Vec<PixelRect> {
    Ground::of(kind, area, count, gap).areas()
}

fn side() -> impl Strategy<Value = Side> {
    prop_oneof![Just(Side::Left), Just(Side::Right), Just(Side::Top), Just(Side::Bottom)]
}

fn inside_and_apart(tiles: &[PixelRect], area: PixelRect) {
    for (nth, tile) in tiles.iter().enumerate() {
        assert!(tile.w > 0 && tile.h > 0);
        assert_eq!(tile.overlap(area), Some(*tile), "inside of {area}");
        for other in &tiles[..nth] {
            assert_eq!(tile.overlap(*other), None, "none overlaps");
        }
    }
}

/// What is done to a workspace of windows.
#[derive(Debug, Clone, Copy)]
enum Deed {
    Opens(i32, i32),
    Closes(usize),
    Looks(usize),
    Swaps(usize, usize),
    Changes(LayoutChange),
}

fn deed() -> impl Strategy<Value = Deed> {
    use ColumnChange::{Cycle, Join, Narrower, Split, Wider};
    use MainChange::{Fewer, Grow, More, Shrink, Swap};
    let column = prop_oneof![Just(Wider), Just(Narrower), Just(Cycle), Just(Join), Just(Split)];
    let main = prop_oneof![Just(Grow), Just(Shrink), Just(More), Just(Fewer), Just(Swap)];
    prop_oneof![
        3 => (1..300i32, 1..200i32).prop_map(|(w, h)| Deed::Opens(w, h)),
        1 => (0..20usize).prop_map(Deed::Closes),
        3 => (0..20usize).prop_map(Deed::Looks),
        1 => (0..20usize, 0..20usize).prop_map(|(a, b)| Deed::Swaps(a, b)),
        3 => column.prop_map(|change| Deed::Changes(LayoutChange::Column(change))),
        1 => main.prop_map(|change| Deed::Changes(LayoutChange::Main(change))),
        1 => (side(), -200..200i32).prop_map(|(side, by)| Deed::Changes(LayoutChange::Edge(side, by))),
    ]
}

proptest! {
    #![proptest_config(ProptestConfig { failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn whatever_is_done_no_window_is_lost_and_the_focus_is_seen(kind in 0..6usize, rest in 0..3usize, slack in 0..3usize, edge in any::<bool>(), deeds in proptest::collection::vec(deed(), 1..40)) {
        let kind = [LayoutKind::Main, LayoutKind::Solo, LayoutKind::Grid, LayoutKind::Halving, LayoutKind::Ribbon, LayoutKind::Tabs][kind];
        let lengths = [Length::Share(0.0), Length::Share(0.5), Length::Share(1.0)];
        let when_cut = if edge { ColumnReveal::Edge } else { ColumnReveal::Rest };
        let rule = LayoutRule { rest_at: lengths[rest], slack: lengths[slack], when_cut, ..rule(kind, Side::Left, 0.5, 1) };
        let area = PixelRect::new(40, 30, 1200, 700);
        let mut it = Ground::new(rule, area, 8);
        for deed in deeds {
            let count = it.tiles.len();
            match deed {
                Deed::Opens(w, h) => it.open((w, h)),
                Deed::Closes(nth) if count > 0 => it.close(nth % count),
                Deed::Looks(nth) if count > 0 => it.look(nth % count),
                Deed::Swaps(a, b) if count > 0 => {
                    it.tiles.swap(a % count, b % count);
                    it.settle();
                }
                Deed::Changes(change) => drop(it.change(change)),
                _ => {}
            }
            let laid = it.laid();
            if let Some(focus) = it.focus {
                let (_, seen) = laid.iter().find(|(id, _)| *id == focus).expect("the focus is seen");
                prop_assert_eq!(seen.overlap(area), Some(*seen), "all of it");
            }
            let tiles: Vec<PixelRect> = laid.iter().map(|(_, area)| *area).collect();
            match kind {
                LayoutKind::Ribbon => {
                    // It runs past the screen, and nowhere else.
                    inside_and_apart(&tiles, PixelRect { x: -100_000, w: 200_000, ..area });
                }
                LayoutKind::Solo | LayoutKind::Tabs => prop_assert_eq!(tiles.len(), it.tiles.len().min(1)),
                _ => {
                    prop_assert_eq!(tiles.len(), it.tiles.len());
                    if tiles.len() <= 12 {
                        inside_and_apart(&tiles, area);
                    }
                }
            }
        }
    }

    #[test]
    fn least_lengths_hold_where_there_is_room(length in 1..3000i32, least in proptest::collection::vec(1..400i32, 1..12), gap in 0..30i32) {
        let pieces = split_least(length, &least, gap);
        let gaps = gap * (least.len() as i32 - 1);
        let room = least.iter().sum::<i32>() + gaps <= length;
        for ((_, size), least) in pieces.iter().zip(&least) {
            prop_assert!(!room || size >= least);
            prop_assert!(*size >= 1);
        }
        let (at, size) = pieces[least.len() - 1];
        prop_assert_eq!(at + size, length.max(1));
    }

    #[test]
    fn tiles_fill_their_area_exactly(kind in 0..3usize, x in -2000..2000i32, y in -2000..2000i32, w in 200..4000i32, h in 200..4000i32, count in 1..12usize, gap in 0..40i32, share in 0.05..0.95f64, mains in 1..5usize, side in side()) {
        let area = PixelRect::new(x, y, w, h);
        let kind = [LayoutKind::Grid, LayoutKind::Main, LayoutKind::Halving][kind];
        let tiles = Ground::filled(rule(kind, side, share, mains), area, count, gap).areas();
        prop_assert_eq!(tiles.len(), count);
        inside_and_apart(&tiles, area);
        let edge = |pick: fn(&PixelRect) -> i32| tiles.iter().map(pick);
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
        let (a, b) = (PixelRect::new(a.0, a.1, a.2, a.3), PixelRect::new(b.0, b.1, b.2, b.3));
        let pieces: Vec<PixelRect> = a.minus(b).collect();
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
    let grid = |w, h, count| Ground::of(LayoutKind::Grid, PixelRect::new(0, 0, w, h), count, 10).told();
    assert_eq!(grid(1010, 410, 4), "0:500x200+0+0 1:500x200+510+0 2:500x200+0+210 3:500x200+510+210");
    assert_eq!(grid(1010, 410, 3), "0:500x200+0+0 1:500x200+510+0 2:1010x200+0+210");
    assert_eq!(grid(410, 1010, 2), "0:410x500+0+0 1:410x500+0+510", "high monitors have rows first");
}

#[test]
fn solo_and_tabs_show_one_over_the_whole_area() {
    let area = PixelRect::new(1, 2, 300, 200);
    for kind in [LayoutKind::Solo, LayoutKind::Tabs] {
        assert_eq!(tile(kind, area, 3, 8), [area]);
        assert_eq!(tile(kind, area, 0, 8), []);
    }
    let mut tabs = Ground::of(LayoutKind::Tabs, area, 3, 8);
    assert!(tabs.ask(|layout, ask| layout.arrange(ask)).strip);
    tabs.look(1);
    let beside = [Side::Left, Side::Right, Side::Top].map(|side| tabs.beside(side));
    assert_eq!(beside, [AdjacentWindow::Own(Some(WindowId(0))), AdjacentWindow::Own(Some(WindowId(2))), AdjacentWindow::AsSeen]);
    let mut one = Ground::of(LayoutKind::Tabs, area, 1, 8);
    assert!(!one.ask(|layout, ask| layout.arrange(ask)).strip, "one by itself needs no title");
    let mut low = Ground::of(LayoutKind::Tabs, PixelRect { h: 50, ..area }, 3, 8);
    assert!(!low.ask(|layout, ask| layout.arrange(ask)).strip, "nor has a low one the room");
}

#[test]
fn a_main_area_is_changed_along_its_side_and_others_have_none() {
    let area = PixelRect::new(0, 0, 1000, 400);
    for (side, long, edge) in [(Side::Left, 1000, Side::Right), (Side::Top, 400, Side::Bottom)] {
        let mut it = Ground::filled(rule(LayoutKind::Main, side, 0.5, 1), area, 3, 0);
        let length = |it: &mut Ground| if side == Side::Left { it.areas()[0].w } else { it.areas()[0].h };
        it.change(LayoutChange::Main(MainChange::Grow)).expect("it has one");
        assert_eq!(length(&mut it), long * 55 / 100);
        it.change(LayoutChange::Main(MainChange::Shrink)).expect("it has one");
        assert_eq!(length(&mut it), long / 2, "the opposite undoes it");
        it.change(LayoutChange::Edge(edge, 40)).expect("the edge between the two areas");
        assert_eq!(length(&mut it), long / 2 + 40);
        it.look(2);
        it.change(LayoutChange::Edge(edge.opposite(), 40)).expect("the same edge from the other side");
        assert_eq!(length(&mut it), long / 2, "and back");
        assert_eq!(it.change(LayoutChange::Edge(edge, 40)), Err(LayoutError::Stays), "the edge of the screen");
        it.look(0);
        it.change(LayoutChange::Main(MainChange::More)).expect("it has one");
        let rule = it.rule.clone();
        assert_eq!(it.layout.mains(&rule), 2);
        it.change(LayoutChange::Main(MainChange::Fewer)).expect("it has one");
        it.change(LayoutChange::Main(MainChange::Fewer)).expect("it has one");
        assert_eq!(it.layout.mains(&rule), 1, "never none");
        assert_eq!(it.change(LayoutChange::Column(ColumnChange::Wider)), Err(LayoutError::Nothing));
    }
    let mut grid = Ground::of(LayoutKind::Grid, area, 3, 0);
    assert_eq!(grid.change(LayoutChange::Main(MainChange::Grow)), Err(LayoutError::Nothing));
}

#[test]
fn a_window_is_not_squeezed_below_its_least_size_while_another_can_give_way() {
    let area = PixelRect::new(0, 0, 1000, 400);
    let mut main = Ground::new(rule(LayoutKind::Main, Side::Left, 0.5, 1), area, 0);
    main.open((1, 1));
    main.open((700, 1));
    main.open((1, 300));
    assert_eq!(main.told(), "0:300x400+0+0 1:700x100+300+0 2:700x300+300+100");
    let mut halving = Ground::new(rule(LayoutKind::Halving, Side::Left, 0.5, 1), area, 0);
    halving.open((1, 1));
    halving.open((600, 1));
    assert_eq!(halving.told(), "0:400x400+0+0 1:600x400+400+0");
}

#[test]
fn halving_halves_the_focused_one_along_its_longer_side() {
    let mut it = Ground::of(LayoutKind::Halving, PixelRect::new(0, 0, 1000, 600), 0, 0);
    for _ in 0..4 {
        it.open((1, 1));
    }
    assert_eq!(it.told(), "0:500x600+0+0 1:500x300+500+0 2:250x300+500+300 3:250x300+750+300");
    it.look(0);
    it.open((1, 1));
    assert_eq!(it.told(), "0:500x300+0+0 4:500x300+0+300 1:500x300+500+0 2:250x300+500+300 3:250x300+750+300");
    it.look(4);
    it.change(LayoutChange::Edge(Side::Left, 50)).expect("an edge between two");
    assert_eq!(it.areas()[4], PixelRect::new(700, 300, 300, 300));
    it.change(LayoutChange::Edge(Side::Left, -50)).expect("an edge between two");
    assert_eq!(it.areas()[4], PixelRect::new(750, 300, 250, 300), "and back");
    it.change(LayoutChange::Edge(Side::Top, 60)).expect("an edge further out");
    assert_eq!(it.areas()[2], PixelRect::new(500, 0, 500, 240));
    it.close(4);
    assert_eq!(it.areas()[3], PixelRect::new(500, 240, 500, 360), "its other half has all of it again");
}

#[test]
fn three_hundred_windows_stay_in_the_area() {
    for kind in [LayoutKind::Main, LayoutKind::Grid, LayoutKind::Solo, LayoutKind::Halving] {
        for area in [PixelRect::new(5, 7, 1000, 760), PixelRect::new(-20, 3, 90, 60)] {
            for tile in tile(kind, area, 300, 12) {
                assert_eq!(tile.overlap(area), Some(tile), "{kind:?}");
                let inner = tile.inset(4);
                assert_eq!(inner.overlap(tile), Some(inner), "nor does what is inside of the frame leave it");
            }
        }
    }
}

/// A ribbon of a screen 1000 wide without gaps; columns take 40 %, 60 % or 80 %.
fn ribbon(rest: f64, slack: f64, when_cut: ColumnReveal) -> Ground {
    let plain = rule(LayoutKind::Ribbon, Side::Left, 0.5, 1);
    let rule = LayoutRule { rest_at: Length::Share(rest), slack: Length::Share(slack), when_cut, ..plain };
    Ground::new(rule, PixelRect::new(0, 0, 1000, 500), 0)
}

#[test]
fn a_ribbon_keeps_its_widths_and_its_view_follows_the_focus() {
    let mut it = ribbon(0.5, 1.0, ColumnReveal::Edge);
    it.open((1, 1));
    assert_eq!(it.told(), "0:400x500+300+0", "a few columns rest as one does");
    it.open((1, 1));
    assert_eq!(it.told(), "0:400x500+100+0 1:400x500+500+0");
    it.open((1, 1));
    assert_eq!(it.told(), "0:400x500+-200+0 1:400x500+200+0 2:400x500+600+0", "just onto the screen");
    it.look(1);
    assert_eq!(it.areas()[0].x, -200, "what is whole stays where it is");
    it.look(0);
    assert_eq!(it.told(), "0:400x500+0+0 1:400x500+400+0 2:400x500+800+0");
    it.change(LayoutChange::Column(ColumnChange::Cycle)).expect("a column");
    assert_eq!(it.areas()[0].w, 600);
    it.change(LayoutChange::Column(ColumnChange::Wider)).expect("a column");
    assert_eq!(it.areas()[0].w, 650);
    it.change(LayoutChange::Column(ColumnChange::Narrower)).expect("a column");
    assert_eq!(it.areas()[0].w, 600, "and back");
    // Widths go along when columns change places.
    it.tiles.swap(0, 1);
    it.settle();
    assert_eq!(it.told(), "1:400x500+0+0 0:600x500+400+0 2:400x500+1000+0", "the edge of the third is on the screen");
    // At rest: the first and the last leave no room beside them.
    let mut rests = ribbon(0.5, 0.2, ColumnReveal::Rest);
    (0..4).for_each(|_| rests.open((1, 1)));
    assert_eq!(rests.areas().last().map(|area| area.x + area.w), Some(1000));
    rests.look(1);
    assert_eq!(rests.told(), "0:400x500+-100+0 1:400x500+300+0 2:400x500+700+0", "in the middle");
    // Always at rest, whatever is empty beside it.
    let mut strict = ribbon(0.0, 0.0, ColumnReveal::Rest);
    (0..3).for_each(|_| strict.open((1, 1)));
    assert_eq!(strict.told(), "1:400x500+-400+0 2:400x500+0+0");
}

#[test]
fn a_column_holds_several_windows_that_join_and_split() {
    let mut it = ribbon(0.0, 1.0, ColumnReveal::Edge);
    (0..3).for_each(|_| it.open((1, 1)));
    it.look(1);
    it.change(LayoutChange::Column(ColumnChange::Join)).expect("there is one at the left");
    assert_eq!(it.told(), "0:400x250+0+0 1:400x250+0+250 2:400x500+400+0");
    assert_eq!(it.beside(Side::Top), AdjacentWindow::Own(Some(WindowId(0))));
    assert_eq!(it.beside(Side::Right), AdjacentWindow::Own(Some(WindowId(2))));
    assert_eq!(it.beside(Side::Left), AdjacentWindow::Own(None));
    it.change(LayoutChange::Column(ColumnChange::Split)).expect("it is one of two");
    assert_eq!(it.areas().len(), 3, "and back");
    assert_eq!(it.change(LayoutChange::Column(ColumnChange::Split)), Err(LayoutError::Stays));
    it.look(0);
    it.change(LayoutChange::Column(ColumnChange::Join)).expect("the first one joins at the right");
    assert_eq!(it.told(), "0:400x250+0+0 1:400x250+0+250 2:400x500+400+0");
    // A new one comes after the whole column, and the focus may be in its middle.
    it.open((1, 1));
    assert_eq!(it.told(), "0:400x250+0+0 1:400x250+0+250 3:400x500+400+0 2:400x500+800+0");
    it.close(0);
    assert_eq!(it.told(), "1:400x500+0+0 3:400x500+400+0 2:400x500+800+0");
    assert_eq!(it.change(LayoutChange::Main(MainChange::Swap)), Err(LayoutError::Nothing));
}
