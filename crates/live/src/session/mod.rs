//! The session: one loop over the stage, the rice's folder, the socket, the sources and signals.

mod answers;
mod backdrop;
mod daytime;
mod follow;
mod graphs;
mod launcher_host;
mod notifications;
mod pictures;
mod reload;
mod start;
mod tray;

use std::collections::{HashSet, VecDeque};
use std::io::Read;
use std::os::fd::{AsFd, BorrowedFd};
use std::os::unix::net::UnixStream;
use std::path::Path;
use std::time::{Duration, Instant};

use jovrik_core::colour::{Format, export};
use jovrik_core::desk;
use jovrik_core::desktop::{Desktop, DesktopEffect, DesktopEvent, MonotonicTime};
use jovrik_core::stage::Backend;
use jovrik_draw::Brush;
use jovrik_file::private_folder;
use jovrik_source::Engine;
use jovrik_values::IconRef;
use jovrik_values::action::{Action, ReloadMode};
use rustix::event::{PollFd, PollFlags, Timespec, poll};
use serde_json::Value;

use crate::aside::Drawing;
use crate::bus::Asked;
use crate::clock::Clock;
use crate::compose::compositions;
use crate::list_provider::ListProvider;
use crate::notification_server::{NotificationServer, NotificationServerError};
use crate::programs::Programs;
use crate::signals::signals;
use crate::socket::{Request, Socket};
use crate::stage::x11::X11;
use crate::status_notifier::StatusNotifierHost;
use crate::terminals::recolour;
use crate::watch::Watch;
use crate::{Error, ExitReason, Options, RequestError};
use follow::FollowState;
use launcher_host::Uses;
use reload::{Reload, fingerprint};

/// However much happens at once, the first of it is seen after no longer than this.
const SHOW_TIMEOUT: Duration = Duration::from_millis(25);

/// A running desktop.
pub struct Session {
    options: Options,
    /// What is to be seen and done.
    desktop: Desktop,
    /// Where it is seen and done.
    stage: X11,
    /// The moment that is being handled.
    now: Instant,
    started: Instant,
    notifiers: Option<StatusNotifierHost>,
    notifiers_coming: Option<Asked<Option<StatusNotifierHost>>>,
    engine: Engine,
    /// What programs tell over the bus; why nobody is heard.
    notices: Option<NotificationServer>,
    notices_coming: Option<Asked<Result<NotificationServer, NotificationServerError>>>,
    notices_amiss: Option<String>,
    /// The bars that some monitor shows.
    bars_seen: HashSet<String>,
    watch: Watch,
    socket: Option<Socket>,
    signals: UnixStream,
    clock: Clock,
    stop: Vec<(i32, UnixStream)>,
    interrupted: bool,
    programs: Programs,
    /// Lists that lie outside, and how much each thing of them was used.
    lists: ListProvider,
    /// Whoever draws pictures.
    drawing: Drawing,
    uses: Uses,
    /// What was chosen of lines that somebody offered, and is to be told.
    taken: Vec<(u64, Option<Vec<usize>>)>,
    reload: Reload,
    reload_wanted: Option<Instant>,
    /// Settings that are others until the next reload.
    set: Vec<(String, String)>,
    /// Whether what others find on the server may be another one.
    dress_wanted: bool,
    /// The icon theme that is asked.
    icons: String,
    /// The colours of terminals, as they were told last.
    colours: String,
    /// Whether what is started now starts by itself.
    starting: bool,
    /// Whether sources are to be asked anew.
    feed_wanted: bool,
    /// Whether those who show icons of programs were told of desktop entries.
    dock_fed: bool,
    /// When the lines of graphs were kept.
    graphs_kept: Option<Instant>,
    /// How many pictures of the backdrop's folder a person went on.
    turned: i64,
    /// When the time of the day is another one, as far as anything follows it.
    day_changes: Option<Instant>,
    wakeups: u64,
    /// How many programs were started.
    launched: u64,
    quit: bool,
    /// Whether the program as it is on disk is to take over.
    again: bool,
    /// What those who follow were told last.
    told: Option<FollowState>,
}

impl Session {
    /// Takes the display and shows what is there.
    pub fn start(options: Options) -> Result<Session, Error> {
        // What is remembered there is nobody else's, whatever an earlier version left.
        for folder in [&options.state, &options.cache.join("jovrik")] {
            if let Err(error) = private_folder(folder) {
                tracing::warn!(folder = %folder.display(), %error, "others may read what is remembered");
            }
        }
        let seen = fingerprint(&options.first);
        let watch = Watch::new(&options.folder, options.watched)?;
        let brush = Brush::new(options.fonts.clone(), &options.folder);
        let (stage, desktop, refused) = X11::take(&options.display, options.replace, &options.first, brush, &options.only)?;
        let socket = Socket::listen(&options.socket)?;
        let now = Instant::now();
        let (signals, stop) = signals().map_err(|error| Error::System("signals cannot be heard", error.to_string()))?;
        let aside = options.aside.clone();
        let programs = Programs::new(options.in_session.clone(), options.logs.clone());
        let turned = options.turned;
        let mut session = Session {
            engine: Engine::new(&options.first.rice, now),
            options,
            desktop,
            stage,
            now,
            started: now,
            notifiers: None,
            notifiers_coming: None,
            notices: None,
            notices_coming: None,
            notices_amiss: None,
            bars_seen: HashSet::new(),
            watch,
            socket: Some(socket),
            signals,
            clock: Clock::new().map_err(|error| Error::System("the clock cannot be heard", error.to_string()))?,
            stop,
            interrupted: false,
            programs,
            lists: ListProvider::new()?,
            drawing: Drawing::new(aside),
            uses: Uses::default(),
            taken: Vec::new(),
            reload: Reload { seen, ..Reload::default() },
            reload_wanted: None,
            set: Vec::new(),
            starting: false,
            feed_wanted: true,
            dock_fed: false,
            graphs_kept: None,
            dress_wanted: true,
            icons: String::new(),
            colours: String::new(),
            turned,
            day_changes: None,
            wakeups: 0,
            launched: 0,
            quit: false,
            again: false,
            told: None,
        };
        session.watch.look_after(session.named_by(&session.options.first));
        session.forget_over();
        // Before any source is asked.
        session.read_graphs();
        session.hear_programs()?;
        session.tell_daytime()?;
        session.read_uses()?;
        let aside = session.drawing.hand_out();
        session.stage.brush().pictures.draws_aside(aside);
        let first = session.stage.begin(&session.desktop)?;
        session.steps(first.into_iter().chain(refused.map(DesktopEvent::NotStarted)))?;
        if session.options.again {
            // They have been running all along.
            session.programs.adopt();
        } else {
            session.start_programs(None)?;
        }
        Ok(session)
    }

    /// Runs until it is told to quit or its display is gone.
    pub fn run(&mut self) -> Result<ExitReason, Error> {
        let done = self.turn();
        self.keep_graphs(true);
        // Before the display is given up: whoever takes over listens at the same place.
        self.socket = None;
        match done {
            // A server that ended has no windows to look after.
            Err(Error::Gone) => Err(Error::Gone),
            other => {
                self.stage.keep(&self.desktop)?;
                self.stage.leave(self.again)?;
                other.map(|()| match () {
                    () if self.again => ExitReason::Again,
                    () if self.interrupted => ExitReason::Interrupted,
                    () => ExitReason::Quit,
                })
            }
        }
    }

    fn turn(&mut self) -> Result<(), Error> {
        while !self.quit {
            self.drain()?;
            if self.quit {
                break;
            }
            self.now = Instant::now();
            self.stage.at(self.now);
            self.hear_saved()?;
            if let Some(since) = self.reload_wanted.take() {
                self.reload(since)?;
            }
            if self.engine.step(self.now) {
                self.step(DesktopEvent::Values(self.engine.known().clone()))?;
                self.keep_graphs(false);
            }
            self.hear_items()?;
            let more = self.hear_told()?;
            self.hear_lists()?;
            self.show_pictures()?;
            if self.desktop.wakes().is_some_and(|wakes| wakes <= self.moment()) {
                self.step(DesktopEvent::Tick)?;
            }
            if self.stage.wakes().is_some_and(|wakes| wakes <= self.now) {
                let events = self.stage.passes();
                self.steps(events)?;
            }
            if self.reload.record_due.is_some_and(|due| due <= self.now) {
                self.record_all();
            }
            let clock_set = self.clock.was_set();
            if clock_set {
                self.engine.clock_set(self.now);
            }
            if clock_set || self.day_changes.is_some_and(|changes| changes <= self.now) {
                self.tell_daytime()?;
                self.reload_by_hour()?;
            }
            // Who is answered finds on the server what the answer says.
            self.stage.flush()?;
            let asks = self.requests()?;
            self.stage.keep(&self.desktop)?;
            self.stage.flush()?;
            // Replies may have brought events that no poll would tell of.
            if !self.drain()? && !more && !asks && self.reload_wanted.is_none() && !self.quit {
                self.wait()?;
            } else if let Some(socket) = &mut self.socket {
                // However much happens, whoever asks is answered.
                socket.wakes();
            }
        }
        Ok(())
    }

    /// Tells the time of the day, as far as anything follows it.
    fn tell_daytime(&mut self) -> Result<(), Error> {
        let rice = self.desktop.desk().rice().clone();
        self.day_changes = daytime::changes(&rice, &self.options.first.overlays, self.now);
        self.step(daytime::daytime(&rice, self.turned))
    }

    /// The moment that is being handled, as the core has it.
    fn moment(&self) -> MonotonicTime {
        MonotonicTime(self.now.saturating_duration_since(self.started))
    }

    /// Handles what the stage tells; whether there was anything.
    fn drain(&mut self) -> Result<bool, Error> {
        let (mut any, mut shown, mut within) = (false, Instant::now(), SHOW_TIMEOUT);
        while let Some(events) = self.stage.next(&self.desktop)? {
            any = true;
            let monitors = events.iter().any(|event| matches!(event, DesktopEvent::Wm(desk::WmEvent::Monitors(_))));
            self.dress_wanted |= monitors;
            self.handle(events)?;
            // Overlays may ask for monitors: which of them hold is found out anew.
            if monitors && !self.options.first.overlays.is_empty() {
                self.reload(self.now)?;
            }
            // Of much that happens at once the first is seen before the last is handled; of very much less and less often.
            if shown.elapsed() > within {
                self.seen()?;
                self.stage.flush()?;
                (shown, within) = (Instant::now(), 2 * within);
            }
        }
        if any {
            self.seen()?;
        }
        Ok(any)
    }

    fn wait(&mut self) -> Result<(), Error> {
        let desktop = self.desktop.wakes().map(|wakes| self.started + wakes.0);
        let next =
            [self.engine.next(), desktop, self.day_changes, self.stage.wakes(), self.reload.record_due, self.drawing.wakes()]
                .into_iter()
                .flatten()
                .min();
        let timeout = next.map(|next| {
            let left = next.saturating_duration_since(Instant::now());
            Timespec { tv_sec: left.as_secs() as i64, tv_nsec: i64::from(left.subsec_nanos()) }
        });
        let drawing = self.drawing.state();
        let mut fds: Vec<BorrowedFd<'_>> = vec![self.stage.fd(), self.watch.fd()];
        let asks: Vec<(BorrowedFd<'_>, PollFlags)> = self.socket.iter().flat_map(Socket::fds).collect();
        let asking = fds.len()..fds.len() + asks.len();
        fds.extend(asks.iter().map(|(fd, _)| *fd));
        fds.extend(self.engine.fds());
        fds.extend(self.notifiers.iter().map(StatusNotifierHost::fd));
        fds.extend(self.notifiers_coming.iter().map(Asked::fd));
        fds.extend(self.notices.iter().map(NotificationServer::fd));
        fds.extend(self.notices_coming.iter().map(Asked::fd));
        fds.push(self.lists.fd());
        fds.push(self.clock.fd());
        fds.extend(drawing.fd());
        let signals = fds.len();
        fds.push(self.signals.as_fd());
        let flags = |at: usize| {
            let socket = at.checked_sub(asking.start).and_then(|at| asks.get(at));
            socket.map_or(PollFlags::IN, |(_, flags)| *flags)
        };
        let mut polled: Vec<PollFd<'_>> = fds.iter().enumerate().map(|(at, fd)| PollFd::new(fd, flags(at))).collect();
        match poll(&mut polled, timeout.as_ref()) {
            Ok(_) | Err(rustix::io::Errno::INTR) => {}
            Err(error) => return Err(Error::System("waiting failed", error.to_string())),
        }
        let signalled = !polled[signals].revents().is_empty();
        let asks_some = polled[asking.clone()].iter().any(|socket| !socket.revents().is_empty());
        drop(polled);
        drop(asks);
        drop(fds);
        drop(drawing);
        self.wakeups += 1;
        if let Some(socket) = self.socket.as_mut().filter(|_| asks_some) {
            socket.wakes();
        }
        if signalled {
            let mut buffer = [0; 64];
            while matches!(self.signals.read(&mut buffer), Ok(len) if len > 0) {}
            self.programs.reap();
            let mut byte = [0; 8];
            for (signal, stop) in &mut self.stop {
                if matches!(stop.read(&mut byte), Ok(len) if len > 0) {
                    self.quit = true;
                    self.interrupted = *signal == signal_hook::consts::SIGINT;
                }
            }
        }
        Ok(())
    }

    /// One event, and all answers that came of it.
    fn step(&mut self, event: DesktopEvent) -> Result<(), Error> {
        self.steps([event])
    }

    /// Events in their order, and what is seen of them.
    fn steps(&mut self, events: impl IntoIterator<Item = DesktopEvent>) -> Result<(), Error> {
        self.handle(events)?;
        self.seen()
    }

    /// Programs that start later find the palette on the server, and open terminals follow it.
    fn dress(&mut self) -> Result<(), Error> {
        let rice = self.desktop.desk().rice().clone();
        self.stage.dress(&rice, self.desktop.desk().main_scale(), &self.options.defaults)?;
        let colours = export(&rice.palette.name, &rice.palette.current, Format::Terminal);
        let before = std::mem::replace(&mut self.colours, colours);
        if self.icons != rice.toolkit.icons {
            self.icons.clone_from(&rice.toolkit.icons);
            self.stage.brush().pictures.find_icons(self.lists.icons(&self.icons));
        }
        if rice.toolkit.terminals && !before.is_empty() && before != self.colours {
            recolour(&self.programs.numbers(), &self.colours);
        }
        Ok(())
    }

    /// Shows what came of events; sources of what is seen now are asked.
    fn seen(&mut self) -> Result<(), Error> {
        self.stage.show(&self.desktop)?;
        let seen = self.desktop.desk().bars_seen();
        if std::mem::take(&mut self.dress_wanted) {
            self.dress()?;
        }
        if seen != self.bars_seen || std::mem::take(&mut self.feed_wanted) {
            self.bars_seen = seen;
            self.feed()?;
        }
        Ok(())
    }

    /// Events in their order, each with all answers that came of it.
    fn handle(&mut self, events: impl IntoIterator<Item = DesktopEvent>) -> Result<(), Error> {
        let mut waiting: VecDeque<DesktopEvent> = events.into_iter().collect();
        while let Some(event) = waiting.pop_front() {
            let now = self.moment();
            tracing::trace!(?event, "event");
            let effects = self.desktop.handle(event, now, self.stage.measure());
            tracing::debug!(effects = effects.len(), "handled");
            // The tray is of both: windows on the stage, and items on the bus.
            let tray =
                effects.iter().find_map(|effect| if let DesktopEffect::Tray(wanted) = effect { Some(*wanted) } else { None });
            let (own, others): (Vec<DesktopEffect>, Vec<DesktopEffect>) = effects.into_iter().partition(of_session);
            let answers = self.stage.apply(others, &self.desktop)?;
            // Answers come before what happened later.
            answers.into_iter().rev().for_each(|answer| waiting.push_front(answer));
            waiting.extend(tray.and_then(|wanted| self.keep_items(wanted)));
            for effect in own {
                waiting.extend(self.carry_out(effect));
            }
        }
        self.stage.let_go_on()
    }

    /// What is asked of nobody who shows something; what there is to answer.
    fn carry_out(&mut self, effect: DesktopEffect) -> Option<DesktopEvent> {
        match effect {
            DesktopEffect::Wm(desk::WmEffect::Spawn { argv, env }) => {
                tracing::info!(?argv, "starts");
                return Some(self.launch(&argv, &env, None));
            }
            DesktopEffect::Wm(desk::WmEffect::SaveScreenshot(area, to)) => return self.keep_picture(area, &to),
            DesktopEffect::Wm(desk::WmEffect::Set(setting)) => return self.set(setting),
            DesktopEffect::Wm(desk::WmEffect::Pick(path, value)) => return Some(self.pick(vec![(path, value)])),
            DesktopEffect::Item(key, deed) => self.ask_item(&key, deed),
            DesktopEffect::Reload(ReloadMode::Keep) => self.keep_tried(),
            DesktopEffect::Reload(ReloadMode::Own) => {
                return self.begin_again().err().map(|why| DesktopEvent::NotStarted(why.to_string()));
            }
            DesktopEffect::Reload(how) => {
                self.reload_wanted = Some(self.now);
                self.reload.asked = true;
                self.reload.trial = if let ReloadMode::Trial(time) = how { Some(time) } else { None };
            }
            DesktopEffect::GoBack => return self.go_back(),
            DesktopEffect::CloseNotification(id, why) => self.untold(id, why),
            DesktopEffect::InvokeNotificationAction(id, key) => self.chosen(id, &key),
            DesktopEffect::List(name) => return Some(self.list(&name)),
            DesktopEffect::Compositions => return Some(DesktopEvent::Compositions(compositions())),
            DesktopEffect::Launch(id, action) => return Some(self.start_entry(&id, action.as_deref())),
            DesktopEffect::Used(id) => return Some(self.used(&id)),
            DesktopEffect::AnswerPrompt(id, taken) => self.taken.push((id, taken)),
            DesktopEffect::Backdrop(to) => return self.other_backdrop(to),
            DesktopEffect::Quit => self.quit = true,
            _ => {}
        }
        None
    }

    /// Starts a program; its windows belong where it was asked for (the freedesktop startup notification protocol).
    fn launch(&mut self, argv: &[String], env: &[(String, String)], folder: Option<&Path>) -> DesktopEvent {
        self.launched += 1;
        let name = argv.first().map_or("", |first| first.rsplit('/').next().unwrap_or(first));
        let start = format!("jovrik-{}-{}-{name}_TIME{}", std::process::id(), self.launched, self.stage.active());
        let workspace = self.desktop.desk().workspace();
        match self.programs.start(argv, env, folder, &self.options.display, &start) {
            Ok(process) => {
                if let Err(error) = self.stage.launches(&start, name, workspace) {
                    tracing::debug!(%error, "nobody is told");
                }
                DesktopEvent::Started { start, process: Some(process), workspace: None, sought: !self.starting }
            }
            Err(why) => DesktopEvent::NotStarted(why.to_string()),
        }
    }

    /// Asks the sources of what is seen.
    fn feed(&mut self) -> Result<(), Error> {
        let seen = &self.bars_seen;
        self.engine.replace(self.desktop.desk().rice(), &|bar| seen.contains(bar), self.now);
        self.engine.step(self.now);
        if self.shows_apps() && !std::mem::replace(&mut self.dock_fed, true) {
            let apps = self.list("apps");
            self.step(apps)?;
        }
        self.step(DesktopEvent::Values(self.engine.known().clone()))
    }

    /// Whether the icons of programs are shown all the time.
    fn shows_apps(&self) -> bool {
        let rice = self.desktop.desk().rice();
        rice.dock.is_there() || rice.module.values().any(|module| module.icon == IconRef::App)
    }

    /// Does an action that somebody told; what there is to say of it. Whoever tells to read the rice again waits for that.
    fn told(&mut self, action: Action) -> Result<Result<Value, RequestError>, Error> {
        self.step(DesktopEvent::Act(action))?;
        if !self.desktop.refused().is_empty() {
            return Ok(Err(RequestError::NotDone(self.desktop.refused().join("; "))));
        }
        match self.reload_wanted.take() {
            Some(since) => self.reload_for(since),
            None => Ok(Ok(Value::Null)),
        }
    }

    fn requests(&mut self) -> Result<bool, Error> {
        let mut broken = None;
        // The socket is taken out so that answers may look at all the rest.
        let Some(mut socket) = self.socket.take() else { return Ok(false) };
        let more = socket.step(&mut |request| match request {
            Request::Ask(what) => self.answer(&what),
            Request::Follow => Ok(Value::Null),
            Request::Offer(offer) => self.heed(DesktopEvent::PromptOpened(Box::new(offer)), &mut broken),
            Request::Left(number) => self.heed(DesktopEvent::Unoffered(number), &mut broken),
            Request::Tell(action) => self.told(action).unwrap_or_else(|error| {
                let words = error.to_string();
                broken = Some(error);
                Err(RequestError::System(words))
            }),
        });
        if socket.followed() {
            let now = FollowState::of(&self.desktop, (self.reload.accepted, self.reload.refused));
            // Who has just begun is told of what comes from now on.
            let before =
                self.told.get_or_insert_with(|| FollowState::of(&self.desktop, (self.reload.accepted, self.reload.refused)));
            socket.tell(&before.until(&now));
            self.told = Some(now);
        } else {
            self.told = None;
        }
        for (number, taken) in std::mem::take(&mut self.taken) {
            socket.taken(number, taken.as_deref());
        }
        self.socket = Some(socket);
        broken.map_or(Ok(more), Err)
    }

    /// Something that somebody asks for, and is answered later.
    fn heed(&mut self, event: DesktopEvent, broken: &mut Option<Error>) -> Result<Value, RequestError> {
        match self.step(event) {
            Ok(()) => Ok(Value::Null),
            Err(error) => {
                let words = error.to_string();
                *broken = Some(error);
                Err(RequestError::System(words))
            }
        }
    }
}

/// Whether an effect has nothing to do with what is seen.
fn of_session(effect: &DesktopEffect) -> bool {
    matches!(
        effect,
        DesktopEffect::Wm(
            desk::WmEffect::Spawn { .. }
                | desk::WmEffect::Set(..)
                | desk::WmEffect::Pick(..)
                | desk::WmEffect::SaveScreenshot(..)
        ) | DesktopEffect::Item(..)
            | DesktopEffect::Reload(_)
            | DesktopEffect::GoBack
            | DesktopEffect::CloseNotification(..)
            | DesktopEffect::InvokeNotificationAction(..)
            | DesktopEffect::List(_)
            | DesktopEffect::Compositions
            | DesktopEffect::Launch(..)
            | DesktopEffect::Used(_)
            | DesktopEffect::AnswerPrompt(..)
            | DesktopEffect::Backdrop(_)
            | DesktopEffect::Quit
    )
}
