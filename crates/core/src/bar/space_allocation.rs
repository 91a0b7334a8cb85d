//! Who gets how much room along a bar.

/// What one module asks for, in pixels along the bar.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct SizeRequest {
    /// All of it.
    pub whole: f32,
    /// The least it can be shown in.
    pub least: f32,
    /// Who gives way first: higher numbers before lower ones.
    pub shrink: i64,
}

/// The room of each: all that it asks for where there is enough; else who is to shrink first gives way, of equals the
/// longest, down to the least; at last some are left out (`None`). `gap` lies between neighbours.
pub fn fit(wants: &[SizeRequest], gap: f32, room: f32) -> Vec<Option<f32>> {
    let mut given: Vec<Option<f32>> = wants.iter().map(|want| Some(want.whole)).collect();
    let lacking = |given: &[Option<f32>]| {
        let shown = given.iter().flatten().count();
        given.iter().flatten().sum::<f32>() + gap * shown.saturating_sub(1) as f32 - room
    };
    // The order of giving way: who shrinks first, then who is longest, then who stands later.
    let next = |given: &[Option<f32>], can: &dyn Fn(usize, f32) -> bool| {
        let able = given.iter().enumerate().filter_map(|(at, room)| room.filter(|room| can(at, *room)).map(|room| (at, room)));
        able.max_by(|(a, x), (b, y)| wants[*a].shrink.cmp(&wants[*b].shrink).then(x.total_cmp(y)).then(a.cmp(b)))
            .map(|(at, _)| at)
    };
    while lacking(&given) > 0.01 {
        let shrinks = |at: usize, room: f32| room > wants[at].least + 0.01;
        match next(&given, &shrinks) {
            Some(at) => {
                let room = given[at].unwrap_or_default();
                given[at] = Some((room - lacking(&given)).max(wants[at].least));
            }
            None => match next(&given, &|_, _| true) {
                Some(at) => given[at] = None,
                None => break,
            },
        }
    }
    // Who left may have made room for one that left before.
    for at in (0..given.len()).rev() {
        if given[at].is_none() {
            given[at] = Some(wants[at].least);
            if lacking(&given) > 0.01 {
                given[at] = None;
            }
        }
    }
    // What is left over goes to those that were cut, in order.
    for at in 0..given.len() {
        let spare = -lacking(&given);
        if let Some(room) = given[at].filter(|room| spare > 0.01 && *room < wants[at].whole) {
            given[at] = Some((room + spare).min(wants[at].whole));
        }
    }
    given
}
