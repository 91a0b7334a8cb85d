//! Peers that ask much, say nothing, or do not read what they are told.

use super::*;

/// A step after a poll that told of something.
fn polled(socket: &mut Socket, answer: &mut dyn FnMut(Request) -> Result<Value, RequestError>) {
    socket.wakes();
    socket.step(answer);
}

#[test]
fn requests_are_actions_or_questions_and_nothing_else() {
    assert_eq!(read(b"{\"tell\": \"close\"}\n", 1), Ok(Request::Tell(Action::Close)));
    assert_eq!(read(b"{\"ask\": \"windows\"}", 1), Ok(Request::Ask("windows".to_owned())));
    for bad in [
        &b"{}"[..],
        b"[]",
        b"null",
        b"{\"tell\": 3}",
        b"\xff\xfe",
        b"{\"tell\": \"clsoe\"}",
        b"{\"tell\":\"close\",\"ask\":\"x\"}",
    ] {
        assert!(read(bad, 1).is_err(), "{bad:?}");
    }
}

#[test]
fn a_peer_gets_an_answer_to_each_line_and_a_huge_one_is_sent_away() {
    let folder = std::env::temp_dir().join(format!("jovrik-socket-{}", std::process::id()));
    let path = folder.join("0.sock");
    let mut socket = Socket::listen(&path).expect("a socket");
    assert_eq!(std::fs::metadata(&path).expect("it is there").permissions().mode() & 0o777, 0o600);
    let mut peer = UnixStream::connect(&path).expect("it listens");
    peer.write_all(b"{\"ask\":\"health\"}\nrubbish\n").expect("it reads");
    polled(&mut socket, &mut |_| Ok(json!(7)));
    let mut buffer = [0; 4096];
    let len = peer.read(&mut buffer).expect("answers");
    let text = String::from_utf8_lossy(&buffer[..len]).into_owned();
    assert!(text.starts_with("{\"version\":1,\"answer\":7}\n{\"version\":1,\"error\":\"not JSON"), "{text}");
    let mut flood = UnixStream::connect(&path).expect("it listens");
    flood.set_nonblocking(true).expect("a socket");
    let mut sent = 0;
    while sent <= limits::REQUEST_BYTES + 8192 {
        match flood.write(&[b'x'; 8192]) {
            Ok(len) => sent += len,
            Err(_) => polled(&mut socket, &mut |_| Ok(Value::Null)),
        }
        if flood.peer_addr().is_err() {
            break;
        }
    }
    polled(&mut socket, &mut |_| Ok(Value::Null));
    assert_eq!(socket.peers.len(), 1, "the flood is gone, the other stays");
    // Many that say nothing do not keep out who asks something.
    let mut idle: Vec<UnixStream> = Vec::new();
    for _ in 0..limits::PEERS + 3 {
        idle.push(UnixStream::connect(&path).expect("it listens"));
        polled(&mut socket, &mut |_| Ok(Value::Null));
    }
    assert_eq!(socket.peers.len(), limits::PEERS);
    let mut said = String::new();
    std::io::BufRead::read_line(&mut std::io::BufReader::new(&idle[0]), &mut said).expect("an answer");
    assert_eq!(said, "{\"version\":1,\"error\":\"64 others are connected, and this one said nothing for longest\"}\n");
    let mut asks = UnixStream::connect(&path).expect("it listens");
    asks.write_all(b"{\"ask\":\"health\"}\n").expect("it reads");
    polled(&mut socket, &mut |_| Ok(json!(8)));
    said.clear();
    std::io::BufRead::read_line(&mut std::io::BufReader::new(&asks), &mut said).expect("an answer");
    assert_eq!(said, "{\"version\":1,\"answer\":8}\n");
    // Who follows is told, who does not read is let go, and a file that is taken away comes back.
    asks.write_all(b"{\"follow\":true}\n").expect("it reads");
    polled(&mut socket, &mut |_| Ok(Value::Null));
    assert!(socket.followed());
    socket.tell(&[json!({ "event": "mode" })]);
    let mut lines = std::io::BufReader::new(&asks);
    said.clear();
    std::io::BufRead::read_line(&mut lines, &mut said).expect("an answer");
    std::io::BufRead::read_line(&mut lines, &mut said).expect("an event");
    assert!(said.ends_with("{\"event\":\"mode\"}\n"), "{said}");
    for _ in 0..200_000 {
        socket.tell(&[json!({ "event": "mode" })]);
    }
    assert!(!socket.followed());
    std::fs::remove_file(&path).expect("taken away");
    polled(&mut socket, &mut |_| Ok(Value::Null));
    assert!(UnixStream::connect(&path).is_ok(), "it is there again");
    std::fs::remove_dir_all(&folder).expect("taken away");
    polled(&mut socket, &mut |_| Ok(Value::Null));
    assert!(UnixStream::connect(&path).is_ok(), "with its folder");
    drop(socket);
    assert!(!path.exists());
    let _ = std::fs::remove_dir(folder);
}

#[test]
fn many_requests_in_a_row_are_all_answered_and_each_has_its_turn() {
    let folder = std::env::temp_dir().join(format!("jovrik-turns-{}", std::process::id()));
    let path = folder.join("0.sock");
    let mut socket = Socket::listen(&path).expect("a socket");
    let mut peer = UnixStream::connect(&path).expect("it listens");
    peer.set_nonblocking(true).expect("a socket");
    // Eight thousand small requests, written before any answer is read; and lines of nothing.
    let all = b"{\"ask\":\"health\"}\n".repeat(8000);
    let (mut sent, mut answers, mut nothing) = (0, Vec::new(), 400_000_usize);
    let mut other: Option<UnixStream> = None;
    let mut most = 0;
    for _ in 0..100_000 {
        sent += peer.write(&all[sent..]).unwrap_or_default();
        if sent == all.len() && nothing > 0 {
            nothing -= peer.write(&vec![b'\n'; nothing]).unwrap_or_default();
        }
        let mut here = 0;
        polled(&mut socket, &mut |_| {
            here += 1;
            Ok(json!(7))
        });
        most = most.max(here);
        let mut buffer = [0; 65536];
        if sent == all.len() {
            let len = peer.read(&mut buffer).unwrap_or_default();
            answers.extend_from_slice(&buffer[..len]);
        }
        // Somebody else asks in the middle, and is answered in that very turn.
        if other.is_none() && sent > all.len() / 2 {
            let mut asks = UnixStream::connect(&path).expect("it listens");
            asks.write_all(b"{\"ask\":\"health\"}\n").expect("it reads");
            polled(&mut socket, &mut |_| Ok(json!(8)));
            asks.set_nonblocking(true).expect("a socket");
            let len = asks.read(&mut buffer).expect("an answer at once");
            assert_eq!(&buffer[..len], b"{\"version\":1,\"answer\":8}\n");
            other = Some(asks);
        }
        if answers.len() == 8000 * 25 && nothing == 0 {
            break;
        }
    }
    assert_eq!(answers.len() / 25, 8000, "{sent} {nothing}");
    assert!(most <= 2 * limits::REQUESTS_AT_ONCE, "{most} of one in a turn");
    drop((socket, other));
    let _ = std::fs::remove_dir_all(folder);
}

#[test]
fn offers_are_cut_where_they_come_in() {
    let offered = |lines: Value| read(json!({ "offer": { "lines": lines } }).to_string().as_bytes(), 3);
    let Ok(Request::Offer(long)) = offered(json!(["a", "b".repeat(3_000_000)])) else { panic!("an offer") };
    assert_eq!((long.lines[0].as_str(), long.lines[1].len()), ("a", limits::LINE_TEXT));
    let many: Vec<&str> = vec!["x"; limits::OFFER_LINES + 1];
    assert_eq!(offered(json!(many)), Err(RequestError::TooManyLines(limits::OFFER_LINES)));
    assert_eq!(offered(json!([1])), Err(RequestError::NotTexts));
    assert_eq!(offered(json!("x")), Err(RequestError::NotAnOffer));
    assert_eq!(read(b"{\"offer\": 3}", 1), Err(RequestError::NotAnOffer));
    assert!(matches!(read(b"{\"offer\": {\"lines\": [", 1), Err(RequestError::NotJson(_))));
}

#[test]
fn fuzz_lines_of_the_socket() {
    let corpus = [
        &b"{\"tell\": \"go charts\"}\n"[..],
        b"{\"ask\":\"health\"}\n{\"follow\":true}\n",
        b"{\"offer\":{\"lines\":[\"a\",\"b\"],\"prompt\":\"which\",\"several\":true}}\n",
    ]
    .map(<[u8]>::to_vec);
    jovrik_fuzz::tries("lines of the socket", &corpus, 40_000, |bytes| {
        let mut input = Input::default();
        // As it comes: in pieces.
        for piece in bytes.chunks(1 + bytes.len() / 7) {
            input.push(piece);
            while let Some(Ok(line)) = input.line() {
                let _ = read(line, 1);
            }
        }
        input.tidy();
    });
}
