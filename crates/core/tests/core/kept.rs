//! What is kept over a new start stands where anybody can write it: whatever it says, the desk goes on.

use jovrik_core::desk::{self, MonitorFacts, SavedState, WindowFacts, WindowId, WindowManager};
use jovrik_values::PixelRect;
use proptest::prelude::*;
use serde_json::{Value, json};

use crate::checked;

const RICE: &str = "[workspaces]\norder = [\"a\", \"b\"]\nlayouts = [\"r\", \"h\", \"m\"]\n\
[layout.r]\nkind = \"ribbon\"\n[layout.h]\nkind = \"halving\"\n[layout.m]\nkind = \"main\"\n";

fn monitor() -> MonitorFacts {
    MonitorFacts::new("DP-1", PixelRect::new(0, 0, 1000, 800))
}

/// A desk that begins with what was kept, with windows, and everything that is done to layouts.
pub fn lives_with(kept: SavedState, layout: &str) {
    let mut desk = WindowManager::new(checked(RICE).rice, vec![monitor()]);
    desk.handle(desk::WmEvent::RestoreStarted(Box::new(kept)));
    for id in [3, 5, 9] {
        desk.handle(desk::WmEvent::Mapped(WindowId(id), WindowFacts { app_id: "x".to_owned(), ..WindowFacts::default() }));
    }
    desk.handle(desk::WmEvent::RestoreFinished);
    let act = |desk: &mut WindowManager, text: &str| {
        let action = jovrik_values::action::Action::parse(text).expect("an action");
        desk.handle(desk::WmEvent::ActionInvoked(action));
    };
    act(&mut desk, &format!("layout {layout}"));
    for deed in [
        "focus left",
        "focus right",
        "focus up",
        "column join",
        "column wider",
        "column cycle",
        "main grow",
        "main more",
        "grow right 500",
        "column split",
        "focus down",
        "move left",
        "shrink left 9",
        "close",
    ] {
        act(&mut desk, deed);
    }
    desk.handle(desk::WmEvent::Unmapped(WindowId(5)));
    assert_eq!(desk.windows.len(), 2);
}

fn with_memory(layout: &str, memory: &Value) -> Vec<u8> {
    let kept = json!({ "workspaces": { "a": { "layout": layout, "memory": { layout: memory } } } });
    serde_json::to_vec(&kept).expect("JSON")
}

#[test]
fn a_forged_memory_of_a_layout_is_left_out_and_told() {
    let column = |windows: u64, share: i64| json!({ "windows": windows, "width": { "Share": share } });
    let forged = [
        ("r", json!({ "Ribbon": { "columns": [], "ids": [3, 5], "view": 0 } })),
        ("r", json!({ "Ribbon": { "columns": [column(9, 500)], "ids": [3, 5], "view": 0 } })),
        ("r", json!({ "Ribbon": { "columns": [column(0, 500), column(2, 500)], "ids": [3, 5], "view": 0 } })),
        ("r", json!({ "Ribbon": { "columns": [column(u64::MAX, 500), column(3, 500)], "ids": [3, 5], "view": 0 } })),
        ("r", json!({ "Ribbon": { "columns": [column(2, 500)], "ids": [3, 3], "view": 0 } })),
        ("r", json!({ "Ribbon": { "columns": [column(2, i64::from(i32::MAX))], "ids": [3, 5], "view": 0 } })),
        ("r", json!({ "Ribbon": { "columns": [column(2, 500)], "ids": [3, 5], "view": i32::MIN } })),
        ("r", json!({ "Ribbon": { "columns": [{ "windows": 2, "width": { "Nth": u64::MAX } }], "ids": [3, 5], "view": 0 } })),
        ("h", json!({ "Halving": { "piece": "Whole", "ids": [3, 5] } })),
        ("h", json!({ "Halving": { "piece": null, "ids": [3] } })),
        (
            "h",
            json!({ "Halving": { "piece": { "Halves": { "beside": true, "share": i32::MIN, "first": "Whole", "second": "Whole" } }, "ids": [3, 5] } }),
        ),
        ("m", json!({ "Main": { "share": i32::MAX, "mains": 1 } })),
        ("m", json!({ "Main": { "share": 500, "mains": u64::MAX } })),
        ("m", json!({ "Main": "nothing" })),
    ];
    for (layout, memory) in forged {
        let (kept, told) = SavedState::read(&with_memory(layout, &memory));
        let kept = kept.expect("the rest holds");
        assert!(kept.workspaces["a"].memory.is_empty(), "{memory}");
        assert_eq!(told, [format!("layout {layout} of a that was kept: it does not fit together")]);
        lives_with(kept, layout);
    }
    let sound = json!({ "Ribbon": { "columns": [column(2, 500), column(1, 300)], "ids": [3, 5, 9], "view": 20 } });
    let (kept, told) = SavedState::read(&with_memory("r", &sound));
    assert_eq!((kept.expect("kept").workspaces["a"].memory.len(), told.len()), (1, 0));
}

#[test]
fn a_forged_place_number_or_name_is_left_out_and_told() {
    let window = |id: u32, more: Value| {
        let mut window =
            json!({ "id": id, "app": "x", "workspace": "a", "floating": true, "place": { "x": 0, "y": 0, "w": 9, "h": 9 } });
        for (name, value) in more.as_object().expect("an object") {
            window[name] = value.clone();
        }
        window
    };
    for bad in [
        json!({ "place": { "x": i32::MAX, "y": 0, "w": i32::MAX, "h": 9 } }),
        json!({ "place": { "x": 0, "y": 0, "w": 0, "h": -4 } }),
        json!({ "spread": { "x": i32::MIN, "y": 0, "w": 9, "h": 9 } }),
        json!({ "lift": u64::MAX }),
        json!({ "app": "x".repeat(2000) }),
        json!({ "id": 5 }),
    ] {
        let bytes = serde_json::to_vec(&json!({ "windows": [window(5, json!({})), window(3, bad.clone())] })).expect("JSON");
        let (kept, told) = SavedState::read(&bytes);
        let kept = kept.expect("the rest holds");
        assert_eq!((kept.windows.len(), told.len()), (1, 1), "{bad}");
        lives_with(kept, "m");
    }
    for none in [&b""[..], b"{", b"7", b"\xff", &[b'['; 100_000]] {
        let (kept, told) = SavedState::read(none);
        assert!(kept.is_none() && told.len() == 1, "{told:?}");
    }
    let (kept, told) = SavedState::read(&vec![b' '; jovrik_text::limits::KEPT_DESK_BYTES + 1]);
    assert!(kept.is_none() && told == ["the desk that was kept: it has more than 4 MiB"]);
}

fn number() -> impl Strategy<Value = Value> {
    prop_oneof![
        Just(json!(0)),
        Just(json!(-1)),
        Just(json!(i32::MAX)),
        Just(json!(i32::MIN)),
        Just(json!(u64::MAX)),
        (0..2000).prop_map(|n| json!(n)),
        Just(json!("x")),
        Just(Value::Null)
    ]
}

proptest! {
    /// Whatever numbers stand in it, reading it and living with it ends, and loses no window.
    #[test]
    fn any_numbers_in_what_is_kept_are_lived_with(
        numbers in prop::collection::vec(number(), 12), columns in 0..4_usize, ids in prop::collection::vec(0..10_u32, 0..4), layout in 0..3_usize,
    ) {
        let n = |at: usize| numbers[at % numbers.len()].clone();
        let halves = json!({ "Halves": { "beside": true, "share": n(1), "first": "Whole", "second": { "Halves": { "beside": false, "share": n(2), "first": "Whole", "second": "Whole" } } } });
        let column = |at: usize| json!({ "windows": n(at), "width": if at.is_multiple_of(2) { json!({ "Nth": n(at + 3) }) } else { json!({ "Share": n(at + 3) }) } });
        let (name, memory) = [
            ("r", json!({ "Ribbon": { "columns": (0..columns).map(column).collect::<Vec<_>>(), "ids": ids, "view": n(0) } })),
            ("h", json!({ "Halving": { "piece": halves, "ids": ids } })),
            ("m", json!({ "Main": { "share": n(0), "mains": n(1) } })),
        ][layout].clone();
        let place = json!({ "x": n(4), "y": n(5), "w": n(6), "h": n(7) });
        let window = json!({ "id": 3, "app": "x", "workspace": "a", "floating": n(8), "place": place, "lift": n(9) });
        let all = json!({ "workspaces": { "a": { "layout": name, "memory": { name: memory }, "focus": [n(10)] } }, "windows": [window] });
        if let (Some(kept), _) = SavedState::read(&serde_json::to_vec(&all).expect("JSON")) {
            lives_with(kept, name);
        }
    }
}
