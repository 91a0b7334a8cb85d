//! Whoever draws is a stranger as well: slow, dead, talking nonsense.

use super::*;

fn job(name: &str) -> Job {
    Job { file: name.into(), within: None, size: (2, 1), kind: jovrik_draw::JobKind::Icon }
}

/// Asks until it is there.
fn drawn(drawing: &mut Drawing, job: &Job) -> Drawn {
    let mut ask = drawing.hand_out();
    let began = Instant::now();
    loop {
        if let Some(drawn) = ask(job) {
            return drawn;
        }
        assert!(began.elapsed() < Duration::from_secs(20), "in vain");
        drawing.turn(Instant::now());
        drawing.0.borrow_mut().wait(Duration::from_millis(50));
    }
}

fn of(script: &str) -> Drawing {
    Drawing::new(["sh", "-c", script].map(OsString::from).to_vec())
}

#[test]
fn what_is_drawn_is_handed_out_once_and_what_is_slow_or_fatal_is_told() {
    let answer = r#"printf '{"size":[2,1],"at":[0,0],"tiled":false,"why":null}\nabcdefgh'"#;
    let mut good = of(&format!("while read -r line; do {answer}; done"));
    let picture = drawn(&mut good, &job("a")).expect("drawn");
    assert_eq!((picture.size(), picture.rgba()), ((2, 1), b"abcdefgh".as_slice()));
    assert_eq!(drawn(&mut good, &job("b")).expect("drawn").size(), (2, 1));
    for nonsense in [
        "exit 1",
        "read -r line; printf 'rubbish\\n'",
        r#"read -r line; printf '{"size":[9999999,9999999],"at":[0,0],"tiled":false,"why":null}\n'"#,
        "read -r line; head -c 9000 /dev/zero",
    ] {
        assert_eq!(drawn(&mut of(nonsense), &job("a")).err(), Some(PictureError::Fatal), "{nonsense}");
    }
    // One that never answers has so long, and the next one is drawn.
    let mut slow = of(&format!(
        "read -r line; case $line in *slow*) exec sleep 100;; esac; {answer}; while read -r line; do {answer}; done"
    ));
    let began = Instant::now();
    assert_eq!(drawn(&mut slow, &job("slow")).err(), Some(PictureError::Slow));
    assert!(began.elapsed() >= Duration::from_millis(limits::ASIDE_MILLISECONDS as u64));
    assert!(drawn(&mut slow, &job("b")).is_ok());
    // It is begun anew so often and no more.
    let mut dies = of("exit 1");
    for nth in 0..MAX_RESTARTS + 5 {
        assert_eq!(drawn(&mut dies, &job(&nth.to_string())).err(), Some(PictureError::Fatal));
    }
    assert_eq!(dies.0.borrow().ends.len(), MAX_RESTARTS);
}

#[test]
fn more_than_can_wait_is_told() {
    let drawing = of("exec sleep 100");
    let mut ask = drawing.hand_out();
    drawing.0.borrow_mut().patience = Duration::ZERO;
    for nth in 0..MAX_WAITING_PICTURES {
        assert!(ask(&job(&nth.to_string())).is_none());
    }
    assert_eq!(ask(&job("more")).and_then(Result::err), Some(PictureError::Busy));
    // What an answer says that it holds is looked at before it is waited for.
    let answer = |rows: usize| {
        let mut input = format!("{{\"size\":[1024,{rows}],\"at\":[0,0],\"tiled\":false,\"why\":null}}\n").into_bytes();
        Answer::take(&mut input).map(|answer| answer.is_ok())
    };
    let rows = limits::ASIDE_BYTES / 4 / 1024;
    assert_eq!((answer(rows), answer(rows + 1)), (None, Some(false)));
}
