//! The desktop's end of the socket: JSON Lines, each answered by one line.

#[cfg(test)]
mod tests;

use std::io::{ErrorKind, Read, Write};
use std::mem::MaybeUninit;
use std::os::fd::{AsFd, BorrowedFd, OwnedFd};
use std::os::unix::fs::{FileTypeExt, PermissionsExt};
use std::os::unix::net::{UnixListener, UnixStream};
use std::path::{Path, PathBuf};
use std::time::{Duration, Instant};

use jovrik_core::part::ChoicePrompt;
use jovrik_text::limits::{self, cut};
use jovrik_values::action::Action;
use rustix::event::PollFlags;
use rustix::fs::inotify;
use serde::Deserialize;
use serde::de::{Deserializer, Error as _, SeqAccess, Visitor};
use serde_json::{Value, json};

use crate::runtime::own_folder;
use crate::{Error, RequestError};

/// What an offer begins with.
const OFFER: &[u8] = b"{\"offer\"";
/// So much is read of one connection in a turn, in bytes.
const READ_AT_ONCE: usize = 256 * 1024;
/// So much waits for somebody who does not read: nothing more of theirs is answered before; who follows is let go.
const UNREAD: usize = 1024 * 1024;
/// So long one turn answers, before the desktop has its own.
const TURN_TIMEOUT: Duration = Duration::from_millis(8);

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
    Offer(ChoicePrompt),
    /// Whoever offered lines by this number is gone.
    Left(u64),
}

struct Peer {
    stream: UnixStream,
    input: Input,
    /// What it has not read yet of what was answered.
    output: Vec<u8>,
    /// When it last said something, in steps of the socket.
    heard: u64,
    /// Whether it is told what happens.
    follows: bool,
    /// The number of what it offers, while a person chooses.
    offers: Option<u64>,
    /// Whether it has said all that it will, and whether it is let go of.
    over: bool,
    gone: bool,
}

/// What came of a connection: lines are taken out one by one, and no byte is looked at or moved again and again.
#[derive(Default)]
struct Input {
    bytes: Vec<u8>,
    /// Where the next line begins, and up to where no end of it was found.
    start: usize,
    seen: usize,
}

impl Input {
    fn push(&mut self, bytes: &[u8]) {
        // What was taken is let go of when it is most of what there is.
        if self.start > self.bytes.len() / 2 {
            self.bytes.drain(..self.start);
            (self.seen, self.start) = (self.seen - self.start, 0);
        }
        self.bytes.extend_from_slice(bytes);
    }

    /// The next whole line, with whatever is longer than it may be refused.
    fn line(&mut self) -> Option<Result<&[u8], usize>> {
        let end = self.bytes[self.seen..].iter().position(|byte| *byte == b'\n').map(|at| self.seen + at);
        let line = &self.bytes[self.start..end.unwrap_or(self.bytes.len())];
        // Lines to choose from may be many.
        let most = if line.starts_with(OFFER) { limits::OFFER_BYTES } else { limits::REQUEST_BYTES };
        if line.len() > most {
            return Some(Err(most));
        }
        let Some(end) = end else {
            self.seen = self.bytes.len();
            return None;
        };
        let line = self.start..end;
        (self.start, self.seen) = (end + 1, end + 1);
        Some(Ok(&self.bytes[line]))
    }

    /// Lets go of what was taken, when that is all.
    fn tidy(&mut self) {
        if self.start == self.bytes.len() {
            *self = Input::default();
        }
    }
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
    /// Whether something was left for the next turn.
    more: bool,
    /// The number of the offer that was made last.
    offers: u64,
}

/// So often it is made anew when somebody takes its file away.
const MAX_REBINDS: u32 = 64;

/// What answers begin with: what a later version says otherwise has another number.
pub const VERSION: u32 = 1;

/// A line to choose from, cut where it comes in.
struct Line(String);

impl<'de> Deserialize<'de> for Line {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        struct OfText;
        impl Visitor<'_> for OfText {
            type Value = Line;
            fn expecting(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
                f.write_str("a text")
            }
            fn visit_str<E>(self, text: &str) -> Result<Line, E> {
                Ok(Line(cut(text, limits::LINE_TEXT).to_owned()))
            }
        }
        deserializer.deserialize_str(OfText)
    }
}

/// Lines to choose from, not without end.
#[derive(Default)]
struct Lines(Vec<String>);

const TOO_MANY: &str = "too many lines";

impl<'de> Deserialize<'de> for Lines {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        struct OfLines;
        impl<'de> Visitor<'de> for OfLines {
            type Value = Lines;
            fn expecting(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
                f.write_str("lines")
            }
            fn visit_seq<A: SeqAccess<'de>>(self, mut seq: A) -> Result<Lines, A::Error> {
                let mut lines = Vec::new();
                while let Some(Line(line)) = seq.next_element()? {
                    if lines.len() >= limits::OFFER_LINES {
                        return Err(A::Error::custom(TOO_MANY));
                    }
                    lines.push(line);
                }
                Ok(Lines(lines))
            }
        }
        deserializer.deserialize_seq(OfLines)
    }
}

/// What an offer looks like.
#[derive(Deserialize)]
struct Offered {
    offer: OfferedLines,
}

#[derive(Deserialize)]
struct OfferedLines {
    lines: Lines,
    #[serde(default)]
    prompt: Option<Line>,
    #[serde(default)]
    several: bool,
}

/// Lines that are offered; `number` is what the answer bears.
fn offer(line: &[u8], number: u64) -> Result<ChoicePrompt, RequestError> {
    match serde_json::from_slice::<Offered>(line) {
        Ok(Offered { offer: OfferedLines { lines, prompt, several } }) => {
            Ok(ChoicePrompt { id: number, prompt: prompt.map(|line| line.0).unwrap_or_default(), lines: lines.0, several })
        }
        Err(error) if error.is_syntax() || error.is_eof() => Err(RequestError::NotJson(error.to_string())),
        Err(error) if error.to_string().starts_with(TOO_MANY) => Err(RequestError::TooManyLines(limits::OFFER_LINES)),
        Err(error) if error.to_string().contains("a text") => Err(RequestError::NotTexts),
        Err(_) => Err(RequestError::NotAnOffer),
    }
}

/// Reads one request; `number` is that of an offer.
fn read(line: &[u8], number: u64) -> Result<Request, RequestError> {
    if line.starts_with(OFFER) {
        return offer(line, number).map(Request::Offer);
    }
    let value: Value = serde_json::from_slice(line).map_err(|error| RequestError::NotJson(error.to_string()))?;
    if value.get("offer").is_some() {
        return offer(line, number).map(Request::Offer);
    }
    let follow = value.get("follow") == Some(&Value::Bool(true));
    match (value.get("tell").and_then(Value::as_str), value.get("ask").and_then(Value::as_str)) {
        (None, None) if follow => Ok(Request::Follow),
        (Some(text), None) => Action::parse(text).map(Request::Tell).map_err(|unknown| RequestError::NotDone(unknown.why)),
        (None, Some(what)) => Ok(Request::Ask(what.to_owned())),
        _ => Err(RequestError::NotARequest),
    }
}

impl Socket {
    /// Listens; a socket that nobody answers at is taken over.
    pub fn listen(path: &Path) -> Result<Socket, Error> {
        let fail = |error: rustix::io::Errno| Error::System("the socket cannot be watched", error.to_string());
        let listener = Self::bind(path)?;
        let watch = inotify::init(inotify::CreateFlags::NONBLOCK | inotify::CreateFlags::CLOEXEC).map_err(fail)?;
        let (path, peers) = (path.to_owned(), Vec::new());
        let socket = Socket { listener, path, peers, steps: 0, watch, again: 0, awake: true, more: false, offers: 0 };
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
        if !any || self.path.exists() || self.again >= MAX_REBINDS {
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
        if let Some(folder) = path.parent() {
            own_folder(folder, true).map_err(|why| Error::System("the socket cannot be made", why))?;
        }
        // Nothing but a socket that nobody answers at is taken away.
        let stale = path.symlink_metadata().is_ok_and(|about| about.file_type().is_socket());
        if stale && UnixStream::connect(path).is_err() {
            let _ = std::fs::remove_file(path);
        }
        let listener = UnixListener::bind(path).map_err(fail)?;
        std::fs::set_permissions(path, std::fs::Permissions::from_mode(0o600)).map_err(fail)?;
        listener.set_nonblocking(true).map_err(fail)?;
        Ok(listener)
    }

    /// What to wait on.
    pub fn fds(&self) -> impl Iterator<Item = (BorrowedFd<'_>, PollFlags)> {
        let own = [self.listener.as_fd(), self.watch.as_fd()].into_iter().map(|fd| (fd, PollFlags::IN));
        own.chain(self.peers.iter().map(|peer| {
            let unread = if peer.output.is_empty() { PollFlags::empty() } else { PollFlags::OUT };
            // Who does not read is not heard before.
            let hears = if peer.output.len() < UNREAD && !peer.over { PollFlags::IN } else { PollFlags::empty() };
            (peer.stream.as_fd(), unread | hears)
        }))
    }

    /// One of [`Socket::fds`] has something to say.
    pub fn wakes(&mut self) {
        self.awake = true;
    }

    /// Takes new peers in, and answers requests with what `answer` says: some of each in turn, and not for long. Whether
    /// something is left for the next turn.
    pub fn step(&mut self, answer: &mut dyn FnMut(Request) -> Result<Value, RequestError>) -> bool {
        if !std::mem::take(&mut self.awake) && !std::mem::take(&mut self.more) {
            return false;
        }
        self.come_back();
        self.steps += 1;
        let (now, ends) = (self.steps, Instant::now() + TURN_TIMEOUT);
        // Whoever comes again and again does not keep those waiting who are there.
        for _ in 0..limits::PEERS {
            let Ok((stream, _)) = self.listener.accept() else { break };
            // The folder keeps others out; who comes in all the same is no one of ours.
            if stream.set_nonblocking(true).is_err() || !is_ours(&stream) {
                continue;
            }
            let (input, output) = (Input::default(), Vec::new());
            let mut peer = Peer { stream, input, output, heard: now, follows: false, offers: None, over: false, gone: false };
            // Who asks something at once is never kept out by those who say nothing.
            if matches!(serve(&mut peer, now, &mut self.offers, answer, ends), Served::Gone) {
                continue;
            }
            if self.peers.len() >= limits::PEERS {
                self.send_away();
            }
            self.peers.push(peer);
        }
        let mut more = false;
        for nth in 0..self.peers.len() {
            if Instant::now() >= ends {
                // Those who had to wait are the first of the next turn.
                self.peers.rotate_left(nth);
                more = true;
                break;
            }
            match serve(&mut self.peers[nth], now, &mut self.offers, answer, ends) {
                Served::All => {}
                Served::Some => more = true,
                Served::Gone => {
                    if let Some(number) = self.peers[nth].offers {
                        let _ = answer(Request::Left(number));
                    }
                    self.peers[nth].gone = true;
                }
            }
        }
        self.peers.retain(|peer| !peer.gone);
        self.more = more;
        more
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
            self.peers.retain_mut(|peer| !peer.follows || peer.say(lines.as_bytes()) && peer.output.len() < UNREAD);
        }
    }

    /// Tells whoever offered lines which of them were taken.
    pub fn taken(&mut self, number: u64, taken: Option<&[usize]>) {
        let line = format!("{}\n", json!({ "version": VERSION, "answer": taken }));
        for peer in self.peers.iter_mut().filter(|peer| peer.offers == Some(number)) {
            peer.offers = None;
            let _ = peer.say(line.as_bytes());
        }
    }

    /// Makes room for one more: who has said nothing for longest is told why, and goes.
    fn send_away(&mut self) {
        // Those who have left already are nobody's company.
        for nth in (0..self.peers.len()).rev() {
            let peer = &self.peers[nth];
            if peer.offers.is_none() && peer.has_left() {
                self.peers.remove(nth);
            }
        }
        if self.peers.len() < limits::PEERS {
            return;
        }
        let silent = (0..self.peers.len()).min_by_key(|at| {
            let peer = &self.peers[*at];
            // Who has not read an answer yet was not heard for that reason.
            (peer.follows || peer.offers.is_some(), !peer.output.is_empty(), peer.heard)
        });
        let Some(mut peer) = silent.map(|at| self.peers.remove(at)) else { return };
        let why = format!("{} others are connected, and this one said nothing for longest", limits::PEERS);
        let _ = peer.say(format!("{}\n", json!({ "version": VERSION, "error": why })).as_bytes());
    }
}

impl Drop for Socket {
    fn drop(&mut self) {
        // Another one may listen there by now.
        let _ = self.listener.set_nonblocking(true);
        let _ = std::fs::remove_file(&self.path);
    }
}

/// Whether whoever is at the other end is this user, or the superuser.
pub(crate) fn is_ours(stream: &UnixStream) -> bool {
    let own = rustix::process::geteuid();
    rustix::net::sockopt::socket_peercred(stream).is_ok_and(|peer| peer.uid == own || peer.uid.is_root())
}

/// How much of a peer's requests was answered.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Served {
    /// All that is there.
    All,
    /// Some of it: the others have their turn first.
    Some,
    /// It is to be let go of.
    Gone,
}

impl Peer {
    /// Whether the other end is closed, and nothing that it said is left.
    fn has_left(&self) -> bool {
        let flags = rustix::net::RecvFlags::PEEK | rustix::net::RecvFlags::DONTWAIT;
        self.input.bytes.is_empty() && matches!(rustix::net::recv(&self.stream, &mut [0_u8; 1], flags), Ok((_, 0)))
    }

    /// Says something, as far as it is read now; the rest waits. Whether it still listens.
    fn say(&mut self, bytes: &[u8]) -> bool {
        self.output.extend_from_slice(bytes);
        self.write()
    }

    fn write(&mut self) -> bool {
        let mut done = 0;
        let listens = loop {
            if done == self.output.len() {
                break true;
            }
            match self.stream.write(&self.output[done..]) {
                Ok(0) => break false,
                Ok(len) => done += len,
                Err(error) if error.kind() == ErrorKind::Interrupted => {}
                Err(error) => break error.kind() == ErrorKind::WouldBlock,
            }
        };
        self.output.drain(..done);
        listens
    }

    /// Reads what is there, not without end; whether there may be more.
    fn hear(&mut self, now: u64) -> std::io::Result<bool> {
        if self.over {
            return Ok(false);
        }
        let mut buffer = [0; 16 * 1024];
        let mut heard = 0;
        while heard < READ_AT_ONCE {
            match self.stream.read(&mut buffer) {
                Ok(0) => {
                    self.over = true;
                    return Ok(false);
                }
                Ok(len) => {
                    (self.heard, heard) = (now, heard + len);
                    self.input.push(&buffer[..len]);
                }
                Err(error) if error.kind() == ErrorKind::Interrupted => {}
                Err(error) if error.kind() == ErrorKind::WouldBlock => return Ok(false),
                Err(error) => return Err(error),
            }
        }
        Ok(true)
    }
}

/// Serves one peer: so many of its requests, and no longer than to a moment.
fn serve(
    peer: &mut Peer,
    now: u64,
    offers: &mut u64,
    answer: &mut dyn FnMut(Request) -> Result<Value, RequestError>,
    ends: Instant,
) -> Served {
    if !peer.write() {
        return Served::Gone;
    }
    // A peer that does not read its answers is not waited for: it is asked again when it does.
    if peer.output.len() >= UNREAD {
        return Served::All;
    }
    let Ok(more) = peer.hear(now) else { return Served::Gone };
    let mut answered = 0;
    loop {
        if answered >= limits::REQUESTS_AT_ONCE || Instant::now() >= ends || peer.output.len() >= UNREAD {
            // Where it is its own fault, poll tells when it has read something.
            return if peer.output.len() >= UNREAD { Served::All } else { Served::Some };
        }
        let request = match peer.input.line() {
            None => break,
            Some(Ok(line)) if line.trim_ascii().is_empty() => {
                continue;
            }
            Some(Ok(line)) => read(line, *offers + 1),
            Some(Err(most)) => {
                let why = format!("a request has at most {} KiB", most / 1024);
                let _ = peer.say(format!("{}\n", json!({ "version": VERSION, "error": why })).as_bytes());
                return Served::Gone;
            }
        };
        answered += 1;
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
        if !peer.say(format!("{said}\n").as_bytes()) {
            return Served::Gone;
        }
    }
    peer.input.tidy();
    match more {
        true => Served::Some,
        // What it asked before it was over is still told.
        false if peer.over && peer.output.is_empty() => Served::Gone,
        false => Served::All,
    }
}
