//! One step of the desktop: an event and its moment give effects.

use std::collections::{HashMap, VecDeque};
use std::rc::Rc;
use std::time::Duration;

use indexmap::IndexSet;
use jovrik_values::action::{Action, CycleTarget, ReloadMode, Screenshot, ScreenshotSource, ScreenshotTarget};
use jovrik_values::{ElementState, IconRef, ModuleValues, PixelRect};

use super::absent_component::AbsentComponent;
use super::difference::{difference, drawn_whole};
use super::drag::Drag;
use super::effect::{DesktopEffect, DisplayConfigSource, StackingId};
use super::event::{DesktopEvent, ForeignToplevel};
use super::keyboard_state::KeyboardState;
use super::monotonic_time::MonotonicTime;
use super::notifications::Notification;
use super::pointer::PointerState;
use super::started::{AllStarted, Started};
use super::surface::{ChangeFlags, Surface, SurfaceId};
use crate::desk::{self, MonitorFacts, StackingLayer, WindowId, WindowManager};
use crate::keys::Scopes;
use crate::launcher::{self, LauncherList};
use crate::part::{self, Component, ComponentRequest, InputEvent, NotificationTopic};
use crate::rice::{BuiltInSource, FocusPolicy, Rice};
use crate::scene::{Measure, NotificationContent};

/// How long programs are given to draw what was uncovered.
const UNCOVERED_TIMEOUT: Duration = Duration::from_millis(80);

/// A desktop.
#[derive(Debug)]
pub struct Desktop {
    pub(super) desk: WindowManager,
    pub(super) hands: KeyboardState,
    pub(super) pointer: PointerState,
    /// A window that is dragged.
    pub(super) drag: Option<Drag>,
    pub(super) parts: Vec<Box<dyn Component>>,
    /// What each part shows, by the number of the part.
    pub(super) shown: Vec<Vec<Rc<Surface>>>,
    pub(super) known: ModuleValues,
    /// Whether a bar shows the tray.
    pub(super) tray: bool,
    pub(super) tray_windows: usize,
    pub(super) pictures: Vec<IconRef>,
    pub(super) items: Vec<String>,
    pub(super) sequence_ends: Option<MonotonicTime>,
    /// Windows that are expected of programs that were started: app name and workspace.
    pub(super) expected: Vec<(String, String)>,
    /// What programs have told, the latest first.
    pub(super) tellings: VecDeque<Notification>,
    /// Whether only what is urgent is shown of it.
    pub(super) quiet: bool,
    /// Until when.
    pub(super) quiet_ends: Option<MonotonicTime>,
    /// The numbers of those that nobody has dealt with yet.
    pub(super) waiting: IndexSet<u32>,
    /// Programs that were started and have no window yet.
    pub(super) started: AllStarted,
    /// The lists of the launcher that come from elsewhere, and how much each thing in it was used.
    pub(super) lists: HashMap<String, Rc<LauncherList>>,
    pub(super) uses: HashMap<String, f32>,
    /// The windows of another manager, beside which some parts run.
    pub(super) neighbours: Vec<ForeignToplevel>,
    pub(super) refused: Vec<String>,
    pub(super) now: MonotonicTime,
    pub(super) hour: u8,
    pub(super) turn: u64,
    /// When outputs go back to how they were lit, unless that is kept.
    pub(super) tried_until: Option<MonotonicTime>,
    /// When the settings go back to how they were, unless they are kept.
    pub(super) trial_ends: Option<MonotonicTime>,
    /// A picture that is kept as soon as programs have drawn what was uncovered: when, of what, and where it goes.
    pub(super) keeps: Option<(MonotonicTime, PixelRect, ScreenshotTarget)>,
    /// What lies over what, as it was told.
    pub(super) stack: Vec<StackingId>,
    /// What changed while an event is handled.
    pub(super) changed: ChangeFlags,
    /// Which parts changed by themselves meanwhile.
    pub(super) own: Vec<bool>,
    /// How many presses were typed meanwhile.
    pub(super) typed: usize,
    /// Whether everything is drawn anew, also what looks the same from here.
    pub(super) redraw: bool,
}

impl Desktop {
    /// A desktop without windows.
    pub fn new(rice: Rc<Rice>, scopes: Rc<Scopes>, monitors: Vec<MonitorFacts>) -> Desktop {
        let parts = part::all();
        Desktop {
            hands: KeyboardState::new(scopes, &rice),
            desk: WindowManager::new(rice, monitors),
            pointer: PointerState::default(),
            drag: None,
            shown: parts.iter().map(|_| Vec::new()).collect(),
            own: vec![true; parts.len()],
            parts,
            known: ModuleValues::new(),
            tray: false,
            tray_windows: 0,
            pictures: Vec::new(),
            items: Vec::new(),
            sequence_ends: None,
            expected: Vec::new(),
            tellings: VecDeque::new(),
            quiet: false,
            quiet_ends: None,
            waiting: IndexSet::new(),
            started: AllStarted::default(),
            lists: HashMap::new(),
            uses: HashMap::new(),
            neighbours: Vec::new(),
            refused: Vec::new(),
            now: MonotonicTime::default(),
            hour: 12,
            turn: 0,
            tried_until: None,
            trial_ends: None,
            keeps: None,
            stack: Vec::new(),
            changed: ChangeFlags::ALL,
            typed: 0,
            redraw: false,
        }
    }

    /// The same with one part more.
    #[must_use]
    pub fn with(mut self, part: Box<dyn Component>) -> Desktop {
        self.parts.push(part);
        self.shown.push(Vec::new());
        self.own.push(true);
        self
    }

    /// Windows, workspaces, monitors, the settings.
    pub fn desk(&self) -> &WindowManager {
        &self.desk
    }

    /// Keys.
    pub fn hands(&self) -> &KeyboardState {
        &self.hands
    }

    /// Why the last action was not done.
    pub fn refused(&self) -> &[String] {
        &self.refused
    }

    /// All surfaces, part by part.
    pub fn surfaces(&self) -> impl Iterator<Item = &Rc<Surface>> {
        self.shown.iter().flatten()
    }

    /// A surface.
    pub fn surface(&self, id: &SurfaceId) -> Option<&Rc<Surface>> {
        self.surfaces().find(|surface| surface.id == *id)
    }

    /// Everything that would be shown if all of it were arranged anew.
    pub fn fresh(&self, measure: &mut dyn Measure) -> Vec<Surface> {
        let sequence = self.hands.sequence();
        self.parts.iter().flat_map(|part| self.of_part(&**part, &sequence, measure)).collect()
    }

    /// When it wants to be told that time has passed.
    pub fn wakes(&self) -> Option<MonotonicTime> {
        let keeps = self.keeps.as_ref().map(|(at, ..)| *at);
        let own = [self.sequence_ends, self.pointer.rest_ends, self.tried_until, self.trial_ends, keeps, self.quiet_ends]
            .into_iter()
            .flatten();
        own.chain(self.parts.iter().filter_map(|part| part.next_wakeup())).min()
    }

    /// One step. `now` never runs backwards.
    pub fn handle(&mut self, event: DesktopEvent, now: MonotonicTime, measure: &mut dyn Measure) -> Vec<DesktopEffect> {
        self.now = now.max(self.now);
        self.typed = 0;
        let mut effects = Vec::new();
        self.take(event, &mut effects);
        if self.changed.meets(ChangeFlags::SETTINGS) {
            self.keep_tray(&mut effects);
        }
        self.carry_wishes(&mut effects);
        self.arrange(measure, &mut effects);
        self.keep_keyboard(&mut effects);
        effects
    }

    /// Is the tray of the screen while a bar shows one.
    fn keep_tray(&mut self, effects: &mut Vec<DesktopEffect>) {
        let rice = self.desk.rice();
        let tray = |name: &String| rice.module.get(name).is_some_and(|module| module.source.kind.is(BuiltInSource::Tray));
        let wanted = rice.bar.values().flat_map(|bar| bar.modules()).any(tray);
        if std::mem::replace(&mut self.tray, wanted) != wanted {
            effects.push(DesktopEffect::Tray(wanted));
            if !wanted {
                (self.tray_windows, self.items, self.pictures) = (0, Vec::new(), Vec::new());
            }
        }
    }

    fn take(&mut self, event: DesktopEvent, effects: &mut Vec<DesktopEffect>) {
        match event {
            DesktopEvent::Wm(event) => self.of_desk(event, effects),
            DesktopEvent::KeyPressed(press) => self.down(press, effects),
            DesktopEvent::KeyReleased(key) if self.ends_drag(key) => self.end_drag(effects),
            DesktopEvent::KeyReleased(key) => {
                if let Some(at) = self.hands.release(key) {
                    self.bound(at, 0, effects);
                }
                self.hands.hold(effects);
            }
            DesktopEvent::Keyboards(keyboards, active) => {
                self.hands.set_keyboards(keyboards, active, effects);
                self.changed = self.changed.and(ChangeFlags::KEYS);
            }
            DesktopEvent::KeyGrabFailed(presses) => self.hands.not_grabbed(presses),
            DesktopEvent::KeyboardGrabFailed => self.not_held(effects),
            DesktopEvent::PointerMoved(id, x, y) => self.pointed(id, x, y, effects),
            DesktopEvent::Left => self.over(None),
            DesktopEvent::Button(id, button, x, y) => self.button(id, button, x, y, effects),
            DesktopEvent::Released(button, x, y) => self.released(button, x, y, effects),
            DesktopEvent::PointerGrabFailed(_) => self.wish(ComponentRequest::Close { menus: true }, effects),
            DesktopEvent::Values(known) => {
                if self.known != known {
                    self.known = known;
                    self.changed = self.changed.and(ChangeFlags::VALUES);
                }
            }
            DesktopEvent::TrayWindows(windows) => {
                self.tray_windows = windows;
                self.changed = self.changed.and(ChangeFlags::TRAY);
            }
            DesktopEvent::TrayItems(items) => {
                (self.items, self.pictures) = items.into_iter().map(|item| (item.key, item.icon)).unzip();
                self.changed = self.changed.and(ChangeFlags::TRAY);
                // A picture may have changed below its name.
                self.redraw = true;
            }
            DesktopEvent::ItemMenu(key, lines) => self.item_menu(&key, lines, effects),
            DesktopEvent::Settings(rice, scopes) => self.settings(rice, scopes, effects),
            DesktopEvent::Refused(why) => {
                let notice = NotificationContent {
                    title: "Not reloaded".to_owned(),
                    body: why,
                    state: Some(ElementState::Urgent),
                    ..NotificationContent::default()
                };
                self.wish(ComponentRequest::ShowMessage(NotificationTopic::Reload, notice), effects);
            }
            DesktopEvent::Act(action) => {
                self.refused.clear();
                self.act(action, 0, effects);
            }
            DesktopEvent::Drag(window, drag) => self.drag_asked(window, drag, effects),
            DesktopEvent::Steer { window, sizes } => {
                if self.desk.arrangement().placed.contains_key(&window) {
                    self.of_desk(desk::WmEvent::ActivationRequested(window), effects);
                    self.wish(ComponentRequest::Steer(window, sizes), effects);
                }
            }
            DesktopEvent::DragEnds => {
                self.end_drag(effects);
                self.wish(ComponentRequest::Close { menus: true }, effects);
            }
            DesktopEvent::NotificationReceived(telling) => self.told(*telling, effects),
            DesktopEvent::NotificationWithdrawn(id) => self.wish(ComponentRequest::Untell(id), effects),
            DesktopEvent::Neighbours(all) => {
                if self.neighbours != all {
                    self.neighbours = all;
                    self.changed = self.changed.and(ChangeFlags::DESK);
                }
            }
            DesktopEvent::Compositions(known) => self.hands.composing.learn(known),
            DesktopEvent::Entries(list, entries) => {
                self.lists.insert(list.clone(), entries);
                self.wish(ComponentRequest::Listed(list), effects);
            }
            DesktopEvent::Uses(uses) => self.uses = uses,
            DesktopEvent::PromptOpened(offer) => self.wish(ComponentRequest::Offer(offer), effects),
            DesktopEvent::Unoffered(id) => self.wish(ComponentRequest::Unoffer(id), effects),
            DesktopEvent::Pasted(text) => self.wish(ComponentRequest::Paste(text), effects),
            DesktopEvent::ResponsivenessChanged(window, hangs) => self.hangs(window, hangs, effects),
            DesktopEvent::Started { start, process, workspace, sought } => {
                let here = || self.desk.workspaces[self.desk.workspace()].name.clone();
                let workspace = workspace.unwrap_or_else(here);
                self.started.add(Started { start, process, workspace, sought });
            }
            DesktopEvent::Expect(app, workspace) => self.expected.push((app.to_lowercase(), workspace)),
            DesktopEvent::NotStarted(why) => self.refuse(why, effects),
            DesktopEvent::Trial(time) => self.trial(time, effects),
            DesktopEvent::Arranged(amiss) => self.tried(&amiss, effects),
            DesktopEvent::HourChanged(hour, turn) => {
                if (self.hour, self.turn) != (hour, turn) {
                    (self.hour, self.turn) = (hour, turn);
                    self.changed = self.changed.and(ChangeFlags::DAYTIME);
                }
            }
            DesktopEvent::Replaced => effects.push(DesktopEffect::Quit),
            DesktopEvent::Tick => self.tick(effects),
        }
    }

    pub(super) fn of_desk(&mut self, event: desk::WmEvent, effects: &mut Vec<DesktopEffect>) {
        let event = match event {
            desk::WmEvent::Mapped(id, mut facts) => {
                let app = facts.app_id.to_lowercase();
                let started = self.started.of(&facts);
                facts.sought = started.as_ref().is_some_and(|started| started.sought);
                if let Some(at) = self.expected.iter().position(|(expected, _)| *expected == app) {
                    facts.workspace = Some(self.expected.remove(at).1);
                } else if let Some(started) = started {
                    facts.workspace = Some(started.workspace);
                }
                desk::WmEvent::Mapped(id, facts)
            }
            other => other,
        };
        if !self.desk.is_news(&event) {
            return;
        }
        self.changed = self.changed.and(ChangeFlags::DESK);
        if matches!(event, desk::WmEvent::Monitors(_)) {
            // What it lay beside is elsewhere now.
            self.wish(ComponentRequest::Close { menus: true }, effects);
        }
        if let desk::WmEvent::Unmapped(id) = event {
            self.wish(ComponentRequest::ClearMessage(NotificationTopic::Hangs(id)), effects);
        }
        let listed = matches!(event, desk::WmEvent::Mapped(..) | desk::WmEvent::Unmapped(_) | desk::WmEvent::TitleChanged(..));
        for effect in self.desk.handle(event) {
            match effect {
                desk::WmEffect::ReportError(why) => self.refuse(why.to_string(), effects),
                other => effects.push(other.into()),
            }
        }
        if listed {
            self.wish(ComponentRequest::Listed("windows".to_owned()), effects);
        }
    }

    /// A window does not answer, or does again: a person sees it, and can end it.
    fn hangs(&mut self, window: WindowId, hangs: bool, effects: &mut Vec<DesktopEffect>) {
        let title = self.desk.windows.get(&window).map(|window| window.facts.title.clone());
        let wish = match title.filter(|_| hangs) {
            Some(title) => {
                let body = "Press here with the left button to end it, with another to wait.".to_owned();
                let notice = NotificationContent {
                    title: format!("{title} does not answer"),
                    body,
                    state: Some(ElementState::Warn),
                    ..NotificationContent::default()
                };
                ComponentRequest::ShowMessage(NotificationTopic::Hangs(window), notice)
            }
            None => ComponentRequest::ClearMessage(NotificationTopic::Hangs(window)),
        };
        self.wish(wish, effects);
    }

    /// Something was not done: whoever asked is told, and a person sees it.
    pub(super) fn refuse(&mut self, why: String, effects: &mut Vec<DesktopEffect>) {
        let notice = NotificationContent {
            title: "Not done".to_owned(),
            body: why.clone(),
            state: Some(ElementState::Warn),
            ..NotificationContent::default()
        };
        self.refused.push(why);
        self.wish(ComponentRequest::ShowMessage(NotificationTopic::Refusal, notice), effects);
    }

    pub(super) fn act(&mut self, action: Action, deep: usize, effects: &mut Vec<DesktopEffect>) {
        match action {
            Action::Mode(mode) => {
                let known = mode.as_ref().filter(|mode| !self.desk.rice().keys.desk.modes.contains_key(*mode));
                match known {
                    Some(mode) => self.refuse(format!("there is no mode {mode}"), effects),
                    None => {
                        if self.hands.mode() != mode.as_deref() {
                            self.hands.listener.enter(mode.as_deref());
                            self.entered(effects);
                        }
                    }
                }
            }
            Action::All(all) => all.into_iter().for_each(|action| self.act(action, deep, effects)),
            Action::Keyboard(which) => match self.layout(&which) {
                Ok(at) => effects.push(DesktopEffect::Layout(at)),
                Err(why) => self.refuse(why.to_string(), effects),
            },
            Action::Press(text) => self.type_keys(&text, deep, effects),
            Action::KeysSheet => self.wish(ComponentRequest::Sheet, effects),
            Action::MonitorsKeep => self.keep_monitors(effects),
            Action::Launcher(list) => match &list {
                Some(name) if !launcher::lists(self.desk.rice()).contains(&name.as_str()) => {
                    self.refuse(format!("there is no list {name}"), effects);
                }
                _ => self.wish(ComponentRequest::Launcher(list), effects),
            },
            Action::Backdrop(to) => effects.push(DesktopEffect::Backdrop(to)),
            Action::Notices(dealing) => self.deal(dealing, effects),
            Action::Screenshot(Screenshot { of: ScreenshotSource::Area, to }) => self.wish(ComponentRequest::Choose(to), effects),
            Action::Reload(ReloadMode::Keep) => self.keep_reload(effects),
            Action::Reload(how) => effects.push(DesktopEffect::Reload(how)),
            Action::Quit => effects.push(DesktopEffect::Quit),
            other => {
                let (leads, before) = (Desktop::leads(&other), self.desk.focused());
                self.of_desk(desk::WmEvent::ActionInvoked(other), effects);
                if leads {
                    self.follow(before, effects);
                }
            }
        }
    }

    /// The number of a layout of the keyboard.
    fn layout(&self, which: &CycleTarget) -> Result<usize, NoLayout> {
        let keyboards = &self.hands.keyboards;
        match which {
            CycleTarget::Named(name) if !self.desk.rice().keyboard.layouts.contains(name) => Err(NoLayout::InRice(name.clone())),
            CycleTarget::Named(name) => {
                let at = keyboards.iter().position(|one| one.layout == *name);
                at.ok_or_else(|| NoLayout::Now(name.clone()))
            }
            _ => Ok((self.hands.active + 1) % keyboards.count()),
        }
    }

    fn settings(&mut self, rice: Rc<Rice>, scopes: Rc<Scopes>, effects: &mut Vec<DesktopEffect>) {
        // Equal settings stay the very same ones: what did not change is not looked at again.
        let old = self.desk.rice().clone();
        if *old != *rice {
            self.of_desk(desk::WmEvent::Settings(rice.clone()), effects);
            if old.pointer != rice.pointer {
                effects.push(DesktopEffect::Follow(rice.pointer.focus == FocusPolicy::Enter));
            }
            let arranged = |rice: &Rice| -> Vec<_> {
                let rules = rice.monitor.values().filter(|rule| desk::arranges(rule));
                let said = |rule: &crate::rice::MonitorRule| {
                    let crate::rice::MonitorRule { r#match, mode, at, rotate, primary, mirrors, off, .. } = rule.clone();
                    (r#match, mode, at, rotate, primary, mirrors, off)
                };
                rules.map(said).collect()
            };
            if arranged(&old) != arranged(&rice) {
                effects.push(DesktopEffect::Monitors(DisplayConfigSource::AsSaid));
            }
            if old.keyboard != rice.keyboard {
                effects.push(DesktopEffect::SetUp(old.clone()));
            }
            if old.input != rice.input {
                effects.push(DesktopEffect::Inputs);
            }
            self.hands.set_drags(&rice);
            self.changed = self.changed.and(ChangeFlags::SETTINGS);
            self.redraw = old.palette != rice.palette || old.r#type != rice.r#type;
            let modes = &self.desk.rice().keys.desk.modes;
            if self.hands.mode().is_some_and(|mode| !modes.contains_key(mode)) {
                self.hands.listener.enter(None);
                self.entered(effects);
            }
        }
        if self.hands.scopes != scopes {
            self.hands.scopes = scopes;
            self.hands.listener.forget();
            self.hands.bind(effects);
            self.hands.hold(effects);
            self.changed = self.changed.and(ChangeFlags::KEYS);
        } else {
            // What another program held until now may be free.
            self.hands.regrab(effects);
        }
        self.wish(ComponentRequest::ClearMessage(NotificationTopic::Reload), effects);
        self.wish(ComponentRequest::Anew, effects);
    }

    /// Something happens to a surface; whether it had a use for it.
    pub(super) fn happens(&mut self, surface: &Surface, happens: InputEvent, effects: &mut Vec<DesktopEffect>) -> bool {
        let Some(at) = self.parts.iter().position(|part| part.name() == surface.id.part) else { return false };
        let mut part = std::mem::replace(&mut self.parts[at], Box::new(AbsentComponent));
        let sequence = self.hands.sequence();
        let (changed, wishes) = part.handle_input(surface, happens, &self.world(&sequence));
        self.parts[at] = part;
        self.own[at] |= changed;
        let used = !wishes.iter().any(|wish| matches!(wish, ComponentRequest::PassThrough));
        wishes.into_iter().for_each(|wish| self.wish(wish, effects));
        used
    }

    pub(super) fn wish(&mut self, wish: ComponentRequest, effects: &mut Vec<DesktopEffect>) {
        match wish {
            ComponentRequest::Act(action) => {
                self.refused.clear();
                self.act(action, 0, effects);
            }
            ComponentRequest::ActivateWindow(id) if self.neighbours.iter().any(|one| one.id == id) => {
                effects.push(DesktopEffect::Activate(id))
            }
            ComponentRequest::ActivateWindow(id) => self.of_desk(desk::WmEvent::ActivationRequested(id), effects),
            ComponentRequest::Point(monitor) => self.of_desk(desk::WmEvent::Pointed(monitor), effects),
            ComponentRequest::Outside(effect) => {
                if let DesktopEffect::CloseNotification(id, _) = effect {
                    self.standing(id, false);
                }
                effects.push(effect);
            }
            ComponentRequest::TellAgain(id) => self.tell_again(id, effects),
            ComponentRequest::Place(id, area) => self.of_desk(desk::WmEvent::Dragged(id, area, Vec::new()), effects),
            ComponentRequest::Order(order) => self.of_desk(desk::WmEvent::Ordered(order), effects),
            ComponentRequest::Keep(area, to) => self.keeps = Some((self.now.after(UNCOVERED_TIMEOUT), area, to)),
            ComponentRequest::PassThrough => {}
            told => {
                let sequence = self.hands.sequence();
                let mut parts = std::mem::take(&mut self.parts);
                let changed: Vec<bool> =
                    parts.iter_mut().map(|part| part.handle_request(&told, &self.world(&sequence))).collect();
                self.parts = parts;
                self.own.iter_mut().zip(changed).for_each(|(own, changed)| *own |= changed);
            }
        }
    }

    /// What parts wish by themselves.
    fn carry_wishes(&mut self, effects: &mut Vec<DesktopEffect>) {
        let wishes: Vec<ComponentRequest> = self.parts.iter_mut().flat_map(|part| part.take_requests()).collect();
        wishes.into_iter().for_each(|wish| self.wish(wish, effects));
    }

    /// What a part shows, as far as it lies on its monitor.
    fn of_part(&self, part: &dyn Component, sequence: &str, measure: &mut dyn Measure) -> Vec<Surface> {
        let world = self.world(sequence);
        let on = |surface: Surface| {
            let monitor = world.monitor_area(world.monitor_named(&surface.id.monitor)?);
            Some(Surface { area: surface.area.overlap(monitor)?, ..surface })
        };
        part.surfaces(&world, measure).into_iter().filter_map(on).collect()
    }

    /// Arranges the parts that look at something which changed, and tells what differs from what is shown.
    fn arrange(&mut self, measure: &mut dyn Measure, effects: &mut Vec<DesktopEffect>) {
        let changed = std::mem::take(&mut self.changed);
        let own = std::mem::replace(&mut self.own, vec![false; self.parts.len()]);
        let sequence = self.hands.sequence();
        let (mut opened, mut behind) = (Vec::new(), false);
        for (at, own) in own.into_iter().enumerate() {
            if !own && !self.parts[at].dependencies().meets(changed) {
                continue;
            }
            let new: Vec<Rc<Surface>> = self.of_part(&*self.parts[at], &sequence, measure).into_iter().map(Rc::new).collect();
            let old = std::mem::take(&mut self.shown[at]);
            behind |= difference(&old, &new, effects, &mut opened);
            self.shown[at] = new;
        }
        let ground = |surface: &Surface| surface.level == StackingLayer::Backdrop;
        // What lets another backdrop through is drawn anew.
        if std::mem::take(&mut self.redraw) || behind {
            effects.retain(|effect| !matches!(effect, DesktopEffect::Surface(surface, _) if !ground(surface)));
            opened.retain(|surface| ground(surface));
            opened.extend(self.surfaces().filter(|surface| !ground(surface)).cloned());
        }
        // What lies below comes first.
        opened.sort_by_key(|surface: &Rc<Surface>| surface.level);
        effects.extend(opened.iter().map(drawn_whole));
        let (layers, same) = self.layers();
        if !same {
            self.stack.clone_from(&layers);
            effects.push(DesktopEffect::Stack(layers));
        }
    }
}

/// Why the keyboard has not the layout that was asked for.
#[derive(Debug, thiserror::Error)]
enum NoLayout {
    #[error("there is no keyboard layout {0} in this rice")]
    InRice(String),
    #[error("the keyboard has no layout {0} now")]
    Now(String),
}
