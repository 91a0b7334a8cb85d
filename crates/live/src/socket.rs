//! The desktop's end of the socket: JSON Lines, each answered by one line.

use std::io::{ErrorKind, Read, Write};
use std::mem::MaybeUninit;
use std::os::fd::{AsFd, BorrowedFd, OwnedFd};
use std::os::unix::fs::PermissionsExt;
use std::os::unix::net::{UnixListener, UnixStream};
use std::path::{Path, PathBuf};

use jovrik_core::desk::Action;
use jovrik_core::part::Offer;
use rustix::fs::inotify;
use serde_json::{Value, json};

use crate::{Error, Refused};

/// The longest request, in bytes.
const MOST: usize = 64 * 1024;
/// What an offer begins with, and the longest one.
const OFFER: &[u8] = b"{\"offer\"";
const MOST_OFFERED: usize = 32 * 1024 * 1024;
/// How many may be connected at once.
const MOST_PEERS: usize = 64;

/// What is asked of the desktop.
#[derive(Debug, Clone, PartialEq)]
pub enum Request {
    /// Do an action.
    Tell(Action),
    /// Say what you know.
    Ask(String),
    /// Say what happens from now on.
    Follow,
    /// Let a person choose of lines.
    Offer(Offer),
    /// Whoever offered lines by this number is gone.
    Left(u64),
}

struct Peer {
    stream: UnixStream,
    input: Vec<u8>,
    /// When it last said something, in steps of the socket.
    heard: u64,
    /// Whether it is told what happens.
    follows: bool,
    /// The number of what it offers, while a person chooses.
    offers: Option<u64>,
}

/// The socket and who is connected to it.
pub struct Socket {
    listener: UnixListener,
    path: PathBuf,
    peers: Vec<Peer>,
    steps: u64,
    /// Tells when something happens to its file.
    watch: OwnedFd,
    /// How often it was made anew.
    again: u32,
    /// Whether there may be something to hear.
    awake: bool,
    /// The number of the offer that was made last.
    offers: u64,
}

/// So often it is made anew when somebody takes its file away.
const MOST_AGAIN: u32 = 64;

/// What answers begin with: what a later version says otherwise has another number.
pub const VERSION: u32 = 1;

/// Lines that are offered; `number` is what the answer bears.
fn offer(value: &Value, number: u64) -> Result<Offer, Refused> {
    let lines = value.get("lines").and_then(Value::as_array).ok_or(Refused::NotAnOffer)?;
    let lines: Option<Vec<String>> = lines.iter().map(|line| line.as_str().map(str::to_owned)).collect();
    let lines = lines.ok_or(Refused::NotTexts)?;
    let prompt = value.get("prompt").and_then(Value::as_str).unwrap_or_default().to_owned();
    let several = value.get("several").and_then(Value::as_bool).unwrap_or_default();
    Ok(Offer { id: number, prompt, lines, several })
}

/// Reads one request; `number` is that of an offer.
fn read(line: &[u8], number: u64) -> Result<Request, Refused> {
    let value: Value = serde_json::from_slice(line).map_err(|error| Refused::NotJson(error.to_string()))?;
    if let Some(offered) = value.get("offer") {
        return offer(offered, number).map(Request::Offer);
    }
    let follow = value.get("follow") == Some(&Value::Bool(true));
    match (value.get("tell").and_then(Value::as_str), value.get("ask").and_then(Value::as_str)) {
        (None, None) if follow => Ok(Request::Follow),
        (Some(text), None) => Action::parse(text).map(Request::Tell).map_err(|unknown| Refused::NotDone(unknown.why)),
        (None, Some(what)) => Ok(Request::Ask(what.to_owned())),
        _ => Err(Refused::NotARequest),
    }
}

impl Socket {
    /// Listens; a socket that nobody answers at is taken over.
    pub fn listen(path: &Path) -> Result<Socket, Error> {
        let fail = |error: rustix::io::Errno| Error::System("the socket cannot be watched", error.to_string());
        let listener = Self::bind(path)?;
        let watch = inotify::init(inotify::CreateFlags::NONBLOCK | inotify::CreateFlags::CLOEXEC).map_err(fail)?;
        let socket =
            Socket { listener, path: path.to_owned(), peers: Vec::new(), steps: 0, watch, again: 0, awake: true, offers: 0 };
        socket.watch();
        Ok(socket)
    }

    /// Whoever takes the file away, or its folder, is noticed.
    fn watch(&self) {
        let gone = inotify::WatchFlags::DELETE | inotify::WatchFlags::MOVED_FROM;
        let gone = gone | inotify::WatchFlags::DELETE_SELF | inotify::WatchFlags::MOVE_SELF;
        if let Some(folder) = self.path.parent() {
            let _ = inotify::add_watch(&self.watch, folder, gone);
        }
    }

    /// Makes it anew where its file is gone.
    fn come_back(&mut self) {
        let mut buffer = [MaybeUninit::uninit(); 4096];
        let mut reader = inotify::Reader::new(&self.watch, &mut buffer);
        let mut any = false;
        while reader.next().is_ok() {
            any = true;
        }
        if !any || self.path.exists() || self.again >= MOST_AGAIN {
            return;
        }
        self.again += 1;
        match Self::bind(&self.path) {
            Ok(listener) => {
                tracing::warn!("the socket was taken away, and is there again");
                self.listener = listener;
                self.watch();
            }
            Err(error) => tracing::warn!(%error, "the socket is gone"),
        }
    }

    fn bind(path: &Path) -> Result<UnixListener, Error> {
        let fail = |error: std::io::Error| Error::System("the socket cannot be made", error.to_string());
        if let Some(parent) = path.parent() {
            std::fs::create_dir_all(parent).map_err(fail)?;
            std::fs::set_permissions(parent, std::fs::Permissions::from_mode(0o700)).map_err(fail)?;
        }
        if UnixStream::connect(path).is_err() {
            let _ = std::fs::remove_file(path);
        }
        let listener = UnixListener::bind(path).map_err(fail)?;
        std::fs::set_permissions(path, std::fs::Permissions::from_mode(0o600)).map_err(fail)?;
        listener.set_nonblocking(true).map_err(fail)?;
        Ok(listener)
    }

    /// What to wait on.
    pub fn fds(&self) -> impl Iterator<Item = BorrowedFd<'_>> {
        [self.listener.as_fd(), self.watch.as_fd()].into_iter().chain(self.peers.iter().map(|peer| peer.stream.as_fd()))
    }

    /// One of [`Socket::fds`] has something to say.
    pub fn wakes(&mut self) {
        self.awake = true;
    }

    /// Takes new peers in, and answers every whole request with what `answer` says.
    pub fn step(&mut self, answer: &mut dyn FnMut(Request) -> Result<Value, Refused>) {
        if !std::mem::take(&mut self.awake) {
            return;
        }
        self.come_back();
        self.steps += 1;
        let now = self.steps;
        let offers = &mut self.offers;
        self.peers.retain_mut(|peer| {
            let stays = serve(peer, now, offers, answer);
            if let Some(number) = peer.offers.filter(|_| !stays) {
                let _ = answer(Request::Left(number));
            }
            stays
        });
        while let Ok((stream, _)) = self.listener.accept() {
            if stream.set_nonblocking(true).is_err() {
                continue;
            }
            let mut peer = Peer { stream, input: Vec::new(), heard: now, follows: false, offers: None };
            if !serve(&mut peer, now, &mut self.offers, answer) {
                continue;
            }
            if self.peers.len() >= MOST_PEERS {
                self.send_away();
            }
            self.peers.push(peer);
        }
    }
}

impl Socket {
    /// Whether anybody is to be told what happens.
    pub fn followed(&self) -> bool {
        self.peers.iter().any(|peer| peer.follows)
    }

    /// Tells all who follow; who does not read is not waited for.
    pub fn tell(&mut self, events: &[Value]) {
        let lines: String = events.iter().map(|event| format!("{event}\n")).collect();
        if !lines.is_empty() {
            self.peers.retain_mut(|peer| !peer.follows || peer.stream.write_all(lines.as_bytes()).is_ok());
        }
    }

    /// Tells whoever offered lines which of them were taken.
    pub fn taken(&mut self, number: u64, taken: Option<&[usize]>) {
        let line = format!("{}\n", json!({ "version": VERSION, "answer": taken }));
        for peer in self.peers.iter_mut().filter(|peer| peer.offers == Some(number)) {
            peer.offers = None;
            let _ = peer.stream.write_all(line.as_bytes());
        }
    }

    /// Makes room for one more: who has said nothing for longest is told why, and goes.
    fn send_away(&mut self) {
        let silent = (0..self.peers.len()).min_by_key(|at| {
            let peer = &self.peers[*at];
            (peer.follows || peer.offers.is_some(), peer.heard)
        });
        let Some(mut peer) = silent.map(|at| self.peers.remove(at)) else { return };
        let why = format!("{MOST_PEERS} others are connected, and this one said nothing for longest");
        let _ = peer.stream.write_all(format!("{}\n", json!({ "version": VERSION, "error": why.to_string() })).as_bytes());
    }
}

impl Drop for Socket {
    fn drop(&mut self) {
        // Another one may listen there by now.
        let _ = self.listener.set_nonblocking(true);
        let _ = std::fs::remove_file(&self.path);
    }
}

/// Serves one peer; whether it stays.
fn serve(peer: &mut Peer, now: u64, offers: &mut u64, answer: &mut dyn FnMut(Request) -> Result<Value, Refused>) -> bool {
    let mut buffer = [0; 8192];
    loop {
        match peer.stream.read(&mut buffer) {
            Ok(0) => return false,
            Ok(len) => {
                peer.heard = now;
                peer.input.extend_from_slice(&buffer[..len]);
            }
            Err(error) if error.kind() == ErrorKind::Interrupted => {}
            Err(error) if error.kind() == ErrorKind::WouldBlock => break,
            Err(_) => return false,
        }
        // Lines to choose from may be many.
        let most = if peer.input.starts_with(OFFER) { MOST_OFFERED } else { MOST };
        if peer.input.len() > most {
            let line =
                format!("{}\n", json!({ "version": VERSION, "error": format!("a request has at most {} KiB", most / 1024) }));
            let _ = peer.stream.write_all(line.as_bytes());
            return false;
        }
    }
    while let Some(end) = peer.input.iter().position(|byte| *byte == b'\n') {
        let line: Vec<u8> = peer.input.drain(..=end).collect();
        if line.trim_ascii().is_empty() {
            continue;
        }
        let request = read(&line, *offers + 1);
        peer.follows |= request == Ok(Request::Follow);
        let offered = matches!(request, Ok(Request::Offer(_)));
        let said = match request.and_then(&mut *answer) {
            Ok(_) if offered => {
                *offers += 1;
                peer.offers = Some(*offers);
                continue;
            }
            Ok(value) => json!({ "version": VERSION, "answer": value }),
            Err(why) => json!({ "version": VERSION, "error": why.to_string() }),
        };
        // A peer that does not read its answers is not waited for.
        if peer.stream.write_all(format!("{said}\n").as_bytes()).is_err() {
            return false;
        }
    }
    true
}

#[cfg(test)]
mod tests {
    use super::*;

    /// A step after a poll that told of something.
    fn polled(socket: &mut Socket, answer: &mut dyn FnMut(Request) -> Result<Value, Refused>) {
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
        while sent <= MOST + 8192 {
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
        for _ in 0..MOST_PEERS + 3 {
            idle.push(UnixStream::connect(&path).expect("it listens"));
            polled(&mut socket, &mut |_| Ok(Value::Null));
        }
        assert_eq!(socket.peers.len(), MOST_PEERS);
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
        for _ in 0..100_000 {
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
}
