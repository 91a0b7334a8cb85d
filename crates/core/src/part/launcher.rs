//! The launcher: lists to choose from. It takes the pointer and the keyboard while it is open.

use std::rc::Rc;

use indexmap::IndexSet;
use jovrik_values::action::{Action, BackdropTarget};
use jovrik_values::{PixelRect, Rect};

use super::{Component, ComponentRequest, Drawn, InputEvent, radius};
use crate::desk::StackingLayer;
use crate::desktop::{ChangeFlags, DesktopEffect, DesktopView, Interactivity, KeyEvent, Surface, SurfaceId};
use crate::launcher::{EntryCommand, Finder, LauncherEntry, LauncherList, gather, key_of, lists};
use crate::rice::{CharacterAction, LauncherCommand, LauncherPosition, Rice, launcher_keys};
use crate::scene::{LauncherRow, LauncherView, Measure, Scene, board, board_height};

/// Lines that somebody offers to choose from.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ChoicePrompt {
    /// Its number, which the answer bears.
    pub id: u64,
    /// What is said before anything is typed.
    pub prompt: String,
    /// The lines.
    pub lines: Vec<String>,
    /// Whether several may be chosen.
    pub several: bool,
}

/// The launcher, open or not.
#[derive(Debug, Default)]
pub(super) struct LauncherComponent {
    open: Option<OpenLauncher>,
    wishes: Vec<ComponentRequest>,
}

#[derive(Debug)]
struct OpenLauncher {
    lists: Vec<String>,
    list: usize,
    /// What is searched; nothing while a list is waited for.
    finder: Option<Finder>,
    /// What else can be done with an entry, in its place: how it is called, the finder of its list, and what was typed there.
    outside: Option<(String, Finder, String)>,
    typed: String,
    picked: usize,
    /// The first that is seen.
    first: usize,
    rows: Vec<LauncherRow>,
    /// All that is seen of it, as it was arranged last.
    board: LauncherView,
    monitor: String,
    /// Where the pointer was when it opened, or has been since.
    pointer: Option<(i32, i32)>,
    marked: IndexSet<usize>,
    offer: Option<ChoicePrompt>,
}

/// The longest text that can be typed, in bytes.
const MAX_QUERY_BYTES: usize = 1000;
/// The share of the free room that is above it, by its place.
fn above(place: LauncherPosition) -> f32 {
    match place {
        LauncherPosition::Upper => 0.2,
        LauncherPosition::Middle => 0.5,
        LauncherPosition::Lower => 0.8,
    }
}

impl OpenLauncher {
    fn name(&self) -> &str {
        self.lists.get(self.list).map_or("", String::as_str)
    }

    /// Whether its rows are pictures.
    fn pictures(&self) -> bool {
        self.offer.is_none() && self.outside.is_none() && self.name() == "pictures"
    }

    fn columns(&self, rice: &Rice) -> usize {
        let set = usize::try_from(rice.launcher.columns.0).unwrap_or(1);
        match (self.pictures(), self.outside.is_some()) {
            (true, _) => set.max(3),
            (_, true) => 1,
            _ => set,
        }
    }

    /// For how many rows there is room.
    fn room(&self, rice: &Rice) -> usize {
        let columns = self.columns(rice);
        let rows = usize::try_from(rice.launcher.rows.0).unwrap_or(1);
        let rows = if self.pictures() { rows.min(3) } else { rows } * columns;
        let all = self.finder.as_ref().map_or(rows, |finder| finder.entries().all.len());
        rows.min(all.max(1))
    }

    fn picked(&mut self) -> Option<(usize, LauncherEntry)> {
        let finder = self.finder.as_mut()?;
        let at = finder.nth(self.picked)?;
        Some((at, finder.entries().all[at].clone()))
    }

    /// Fills the list that it shows.
    fn fill(&mut self, world: &DesktopView<'_>, wishes: &mut Vec<ComponentRequest>) {
        self.outside = None;
        let entries = match &self.offer {
            Some(_) => return,
            None => gather(self.name(), world),
        };
        if entries.is_none() {
            wishes.push(ComponentRequest::Outside(DesktopEffect::List(self.name().to_owned())));
        }
        self.finder = entries.map(|entries| Finder::new(entries, world.uses));
        self.marked.clear();
    }

    /// Searches again for what was typed.
    fn search(&mut self, world: &DesktopView<'_>) {
        if let Some(finder) = &mut self.finder {
            finder.find(&self.typed);
        }
        (self.picked, self.first) = (0, 0);
        self.look(world);
    }

    /// Makes the rows that are seen.
    fn look(&mut self, world: &DesktopView<'_>) {
        let rice = world.desk.rice();
        let (room, columns) = (self.room(rice), self.columns(rice));
        let count = self.finder.as_ref().map_or(0, Finder::count);
        self.picked = self.picked.min(count.saturating_sub(1));
        // Whole lines are seen, and the picked one among them.
        let line = self.picked / columns;
        let (first, lines) = (self.first / columns, (room / columns).max(1));
        let first = first.clamp((line + 1).saturating_sub(lines), line);
        self.first = first * columns;
        let Some(finder) = &mut self.finder else {
            self.rows.clear();
            return;
        };
        let mut rows = Vec::with_capacity(room);
        for nth in self.first..count.min(self.first + room) {
            let Some(at) = finder.nth(nth) else { break };
            let letters = finder.letters(at);
            let entry = &finder.entries().all[at];
            rows.push(LauncherRow {
                name: entry.name.clone(),
                letters,
                note: entry.note.clone(),
                icon: entry.icon.clone(),
                picked: nth == self.picked,
                marked: self.marked.contains(&at),
            });
        }
        self.rows = rows;
    }

    fn go(&mut self, to: usize, world: &DesktopView<'_>) -> bool {
        let before = (self.picked, self.first);
        self.picked = to;
        self.look(world);
        before != (self.picked, self.first)
    }

    fn show_list(&mut self, list: usize, world: &DesktopView<'_>, wishes: &mut Vec<ComponentRequest>) {
        self.list = list;
        self.fill(world, wishes);
        self.search(world);
    }

    /// What keys do, as far as it is worth a word.
    fn help(&mut self, rice: &Rice) -> Vec<(String, String)> {
        let inside = self.picked().is_some_and(|(_, entry)| !entry.more.is_empty());
        let (lists, columns) = (self.lists.len(), self.columns(rice));
        let several = self.offer.as_ref().is_some_and(|offer| offer.several);
        let grid = columns > 1;
        let deeds = [
            (LauncherCommand::Choose, "chooses", true),
            (LauncherCommand::Mark, "marks", several),
            (LauncherCommand::Right, "its own actions", inside && !grid),
            (LauncherCommand::Inside, "its own actions", inside && grid),
            (LauncherCommand::Left, "back", self.outside.is_some()),
            (LauncherCommand::NextList, "next list", lists > 1 && self.outside.is_none()),
            (LauncherCommand::Leave, "leaves", true),
        ];
        let own = |deed: LauncherCommand| {
            let own = rice.keys.launcher.plain.0.iter().find(|at| at.binding.action == deed).map(|at| at.written.clone());
            let taken = |keys: &jovrik_values::chord::ChordSequence| rice.keys.launcher.plain.0.iter().any(|at| at.keys == *keys);
            let free = launcher_keys().iter().find(|(keys, _, other)| *other == deed && !taken(keys));
            own.or_else(|| free.map(|(_, written, _)| (*written).to_owned()))
        };
        let said = deeds.into_iter().filter(|(.., there)| *there);
        said.filter_map(|(deed, does, _)| Some((own(deed)?, does.to_owned()))).collect()
    }

    /// All that is seen of it.
    fn arranged(&mut self, world: &DesktopView<'_>) -> LauncherView {
        let rice = world.desk.rice();
        let lives = |name: &String| world.lists.get(name).is_none_or(|entries| !entries.all.is_empty());
        let lists: Vec<(String, bool)> = if self.offer.is_some() || self.outside.is_some() {
            Vec::new()
        } else {
            self.lists.iter().map(|name| (name.clone(), lives(name))).collect()
        };
        let (count, all) = self.finder.as_ref().map_or((0, 0), |finder| (finder.count(), finder.entries().all.len()));
        let prompt = match (&self.offer, &self.outside) {
            (_, Some((name, ..))) => name.clone(),
            (Some(offer), _) => offer.prompt.clone(),
            _ => rice.launcher.prompt.clone(),
        };
        let nothing = match &self.finder {
            None => "reading it \u{2026}".to_owned(),
            Some(finder) if finder.entries().all.is_empty() => "nothing stands in this list".to_owned(),
            Some(_) => "nothing is called so".to_owned(),
        };
        let help = if rice.launcher.help { self.help(rice) } else { Vec::new() };
        LauncherView {
            prompt,
            typed: self.typed.clone(),
            list: if lists.len() == 1 { 0 } else { self.list },
            lists,
            rows: self.rows.clone(),
            room: self.room(rice),
            columns: self.columns(rice),
            pictures: self.pictures(),
            nothing,
            help,
            count: format!("{count} of {all}"),
        }
    }
}

impl LauncherComponent {
    fn open(&mut self, list: Option<&str>, world: &DesktopView<'_>) {
        let rice = world.desk.rice();
        let mut lists = rice.launcher.lists.clone();
        let at = match list {
            Some(list) => lists.iter().position(|own| own == list).unwrap_or_else(|| {
                // One that is not on the way is shown by itself.
                lists = vec![list.to_owned()];
                0
            }),
            None => 0,
        };
        let mut open = OpenLauncher {
            lists,
            list: at,
            finder: None,
            outside: None,
            typed: String::new(),
            picked: 0,
            first: 0,
            rows: Vec::new(),
            board: LauncherView::default(),
            monitor: world.monitor_name(world.desk.monitor),
            pointer: None,
            marked: IndexSet::new(),
            offer: None,
        };
        open.fill(world, &mut self.wishes);
        open.search(world);
        self.leave();
        self.open = Some(open);
    }

    /// Offers lines; whoever offered others before gets no answer.
    fn offer(&mut self, offer: &ChoicePrompt, world: &DesktopView<'_>) {
        self.open(Some(""), world);
        self.wishes.retain(|wish| !matches!(wish, ComponentRequest::Outside(DesktopEffect::List(_))));
        let Some(open) = &mut self.open else { return };
        let line = |(nth, line): (usize, &String)| LauncherEntry::new("", line.clone(), EntryCommand::Line(nth));
        let entries = LauncherList::new(offer.lines.iter().enumerate().map(line).collect());
        open.finder = Some(Finder::new(Rc::new(entries), &Default::default()));
        open.offer = Some(offer.clone());
        open.search(world);
    }

    /// Closes it; who offered lines is told that none was chosen.
    fn leave(&mut self) -> bool {
        let Some(open) = self.open.take() else { return false };
        if let Some(offer) = open.offer {
            self.wishes.push(ComponentRequest::Outside(DesktopEffect::AnswerPrompt(offer.id, None)));
        }
        true
    }

    /// Does what is picked, or all that is marked.
    fn choose(&mut self, stay: bool, world: &DesktopView<'_>) -> Vec<ComponentRequest> {
        let Some(open) = &mut self.open else { return Vec::new() };
        let Some((at, entry)) = open.picked() else { return Vec::new() };
        if let Some(offer) = &open.offer {
            let marked: Vec<usize> = open.marked.iter().copied().collect();
            let taken = if marked.is_empty() { vec![at] } else { marked };
            let answer = ComponentRequest::Outside(DesktopEffect::AnswerPrompt(offer.id, Some(taken)));
            self.open = None;
            return vec![answer];
        }
        if !stay {
            self.open = None;
        }
        let rice = world.desk.rice();
        let done = match entry.deed {
            EntryCommand::Act(action) => ComponentRequest::Act(action),
            EntryCommand::Window(id) => ComponentRequest::ActivateWindow(id),
            EntryCommand::Told(id) => ComponentRequest::TellAgain(id),
            EntryCommand::App(id, action) => ComponentRequest::Outside(DesktopEffect::Launch(id, action)),
            EntryCommand::Picture(path) => {
                let palette = rice.launcher.picture_gives_palette;
                ComponentRequest::Act(Action::Backdrop(BackdropTarget::Picture { path, palette }))
            }
            EntryCommand::Text(text) if rice.launcher.characters == CharacterAction::Copy => {
                ComponentRequest::Outside(DesktopEffect::Copy(text))
            }
            EntryCommand::Text(text) => ComponentRequest::Outside(DesktopEffect::Write(text)),
            EntryCommand::Line(_) => ComponentRequest::PassThrough,
        };
        vec![ComponentRequest::Outside(DesktopEffect::Used(entry.id)), done]
    }

    fn key(&mut self, stroke: &KeyEvent, world: &DesktopView<'_>) -> (bool, Vec<ComponentRequest>) {
        let rice = world.desk.rice();
        let deed = key_of(rice, |chord| world.hands.makes(chord, stroke.press));
        let Some(open) = &mut self.open else { return (false, Vec::new()) };
        let columns = open.columns(rice);
        let room = open.room(rice);
        let last = open.finder.as_ref().map_or(0, |finder| finder.count().saturating_sub(1));
        let at = open.picked;
        let deed = match (deed, columns) {
            // Without a grid there is nothing at its sides: what can be done with an entry is there.
            (Some(LauncherCommand::Right), 1) => Some(LauncherCommand::Inside),
            (Some(LauncherCommand::Left), 1) => Some(LauncherCommand::Back),
            (deed, _) => deed,
        };
        let changed = match deed {
            Some(LauncherCommand::Choose) => return (true, self.choose(false, world)),
            Some(LauncherCommand::ChooseStay) => return (true, self.choose(true, world)),
            Some(LauncherCommand::Leave) if open.outside.is_some() => open.back(world),
            Some(LauncherCommand::Leave) => self.leave(),
            Some(LauncherCommand::Mark) => open.mark(world),
            Some(LauncherCommand::Inside) => open.inside(world),
            Some(LauncherCommand::Back) => open.back(world),
            // From the last it goes on at the first.
            Some(LauncherCommand::Down) if at == last => open.go(0, world),
            Some(LauncherCommand::Down) => open.go((at + columns).min(last), world),
            Some(LauncherCommand::Up) if at == 0 => open.go(last, world),
            Some(LauncherCommand::Up) => open.go(at.saturating_sub(columns), world),
            Some(LauncherCommand::Right) => open.go((at + 1).min(last), world),
            Some(LauncherCommand::Left) => open.go(at.saturating_sub(1), world),
            Some(LauncherCommand::First) => open.go(0, world),
            Some(LauncherCommand::Last) => open.go(last, world),
            Some(LauncherCommand::PageDown) => open.go((at + room).min(last), world),
            Some(LauncherCommand::PageUp) => open.go(at.saturating_sub(room), world),
            Some(key @ (LauncherCommand::NextList | LauncherCommand::PrevList)) => {
                let count = open.lists.len();
                if open.offer.is_some() || count < 2 {
                    return (false, Vec::new());
                }
                let step = if key == LauncherCommand::NextList { 1 } else { count - 1 };
                open.show_list((open.list + step) % count, world, &mut self.wishes);
                true
            }
            Some(LauncherCommand::Erase) => open.typed.pop().is_some() && open.searched(world),
            Some(LauncherCommand::EraseAll) => !std::mem::take(&mut open.typed).is_empty() && open.searched(world),
            Some(LauncherCommand::EraseWord) => {
                let kept = open.typed.trim_end().rfind(' ').map_or(0, |at| at + 1);
                open.typed.truncate(kept);
                open.searched(world)
            }
            Some(LauncherCommand::Paste) => {
                return (false, vec![ComponentRequest::Outside(DesktopEffect::Paste { selected: false })]);
            }
            Some(LauncherCommand::None) => false,
            None => match &stroke.text {
                Some(typed) => open.types(typed, world),
                None => return (false, vec![ComponentRequest::PassThrough]),
            },
        };
        (changed, Vec::new())
    }

    fn press(&mut self, button: u8, spot: &str, inside: bool, world: &DesktopView<'_>) -> (bool, Vec<ComponentRequest>) {
        let Some(open) = &mut self.open else { return (false, Vec::new()) };
        let rice = world.desk.rice();
        let (columns, at) = (open.columns(rice), open.picked);
        match (button, spot.split_once(' ').and_then(|(kind, nth)| Some((kind, nth.parse::<usize>().ok()?)))) {
            (4, _) if inside => (open.go(at.saturating_sub(columns), world), Vec::new()),
            (5, _) if inside => (open.go(at + columns, world), Vec::new()),
            (1, Some(("row", nth))) => {
                open.picked = open.first + nth;
                (true, self.choose(false, world))
            }
            (3, Some(("row", nth))) => {
                open.picked = open.first + nth;
                (open.inside(world), Vec::new())
            }
            (1, Some(("list", nth))) if open.offer.is_none() && open.outside.is_none() => {
                open.show_list(nth.min(open.lists.len() - 1), world, &mut self.wishes);
                (true, Vec::new())
            }
            (2, _) if inside => (false, vec![ComponentRequest::Outside(DesktopEffect::Paste { selected: true })]),
            _ if inside => (false, Vec::new()),
            // Beside it: a person thinks better of it.
            (1..=3, _) => (self.leave(), Vec::new()),
            _ => (false, Vec::new()),
        }
    }
}

impl OpenLauncher {
    fn searched(&mut self, world: &DesktopView<'_>) -> bool {
        self.search(world);
        true
    }

    /// Adds to what was typed; what is no text is left out.
    fn types(&mut self, text: &str, world: &DesktopView<'_>) -> bool {
        let room = MAX_QUERY_BYTES.saturating_sub(self.typed.len());
        let text: String = text.lines().next().unwrap_or_default().chars().filter(|c| !c.is_control()).collect();
        let text = &text[..text.floor_char_boundary(room)];
        self.typed.push_str(text);
        !text.is_empty() && self.searched(world)
    }

    fn mark(&mut self, world: &DesktopView<'_>) -> bool {
        let several = self.offer.as_ref().is_some_and(|offer| offer.several);
        let Some((at, _)) = self.picked().filter(|_| several) else { return false };
        if !self.marked.shift_remove(&at) {
            self.marked.insert(at);
        }
        let next = self.picked + 1;
        self.go(next, world);
        true
    }

    /// Shows what else can be done with what is picked.
    fn inside(&mut self, world: &DesktopView<'_>) -> bool {
        let Some((_, entry)) = self.picked().filter(|(_, entry)| !entry.more.is_empty() && self.outside.is_none()) else {
            return false;
        };
        let one = |(name, deed): &(String, EntryCommand)| LauncherEntry {
            icon: entry.icon.clone(),
            ..LauncherEntry::new(format!("{}/{name}", entry.id), name.clone(), deed.clone())
        };
        let first = LauncherEntry { note: String::new(), more: Vec::new(), ..entry.clone() };
        let entries = std::iter::once(first).chain(entry.more.iter().map(one)).collect();
        let inner = Finder::new(Rc::new(LauncherList::new(entries)), &Default::default());
        if let Some(outer) = self.finder.replace(inner) {
            self.outside = Some((entry.name, outer, std::mem::take(&mut self.typed)));
        }
        self.searched(world)
    }

    fn back(&mut self, world: &DesktopView<'_>) -> bool {
        let Some((_, finder, typed)) = self.outside.take() else { return false };
        (self.finder, self.typed) = (Some(finder), typed);
        self.searched(world)
    }
}

impl Component for LauncherComponent {
    fn name(&self) -> &'static str {
        "launcher"
    }

    fn dependencies(&self) -> ChangeFlags {
        // Its place is that which bars and panels leave.
        ChangeFlags::SETTINGS.and(ChangeFlags::DESK)
    }

    fn surfaces(&self, world: &DesktopView<'_>, measure: &mut dyn Measure) -> Vec<Surface> {
        let Some(open) = &self.open else { return Vec::new() };
        let Some(monitor) = world.monitor_named(&open.monitor) else { return Vec::new() };
        let (rice, by) = (world.desk.rice(), world.desk.scale(monitor) as f32);
        let work = world.desk.work_area(monitor);
        let width = (rice.launcher.width.0 as f32).min(work.w as f32 / by);
        let shown = &open.board;
        let height = board_height(rice, shown, width).min(work.h as f32 / by).ceil();
        let (w, h) = ((width * by).round() as i32, (height * by).round() as i32);
        let down = ((work.h - h) as f32 * above(rice.launcher.place)).round() as i32;
        let area = PixelRect::new(work.x + (work.w - w) / 2, work.y + down, w, h);
        let mut scene = Scene::default();
        let at = Rect::from(area).times(1.0 / by);
        let places = board(rice, shown, at, &mut scene, measure);
        let spots = |kind: &str, rects: Vec<Rect>| -> Vec<(String, Rect)> {
            rects.into_iter().enumerate().map(|(nth, rect)| (format!("{kind} {nth}"), rect.times(by))).collect()
        };
        let mut all = spots("row", places.rows);
        all.extend(spots("list", places.lists));
        vec![Surface {
            id: SurfaceId { part: self.name(), name: String::new(), monitor: open.monitor.clone() },
            area,
            level: StackingLayer::Launcher,
            takes: Interactivity::Grab,
            radius: radius(world, "launcher", &[], by),
            content: Rc::new(Drawn { scene: Rc::new(scene.scaled(by)), whole: area.into(), spots: all }),
        }]
    }

    fn handle_input(&mut self, surface: &Surface, happens: InputEvent, world: &DesktopView<'_>) -> (bool, Vec<ComponentRequest>) {
        let spot = |x: i32, y: i32| surface.content.at(x as f32, y as f32).map(|at| at.what).unwrap_or_default();
        let (changed, wishes) = match happens {
            InputEvent::Key(stroke) => self.key(&stroke, world),
            InputEvent::Press(button, x, y) => self.press(button, &spot(x, y), surface.area.contains(x, y), world),
            InputEvent::Moved(x, y) => {
                let over = spot(x, y).strip_prefix("row ").and_then(|nth| nth.parse::<usize>().ok());
                let changed = match &mut self.open {
                    // Where it lies when the launcher opens it picks nothing: it must move for that.
                    Some(open) => match (open.pointer.replace((x, y)), over) {
                        (Some(before), Some(nth)) if before != (x, y) => open.go(open.first + nth, world),
                        _ => false,
                    },
                    None => false,
                };
                (changed, Vec::new())
            }
            InputEvent::Release(..) => (false, Vec::new()),
        };
        if let (true, Some(open)) = (changed, &mut self.open) {
            open.board = open.arranged(world);
        }
        (changed, wishes)
    }

    fn handle_request(&mut self, wish: &ComponentRequest, world: &DesktopView<'_>) -> bool {
        let changed = match wish {
            ComponentRequest::Launcher(list) => {
                let same = |open: &OpenLauncher| open.offer.is_none() && list.as_deref().is_none_or(|list| list == open.name());
                if self.open.as_ref().is_some_and(same) {
                    self.leave()
                } else {
                    self.open(list.as_deref(), world);
                    true
                }
            }
            ComponentRequest::Offer(offer) => {
                self.offer(offer, world);
                true
            }
            ComponentRequest::Unoffer(id) => {
                let own = self.open.as_ref().is_some_and(|open| open.offer.as_ref().is_some_and(|offer| offer.id == *id));
                own && self.open.take().is_some()
            }
            // What it shows may be gone by now.
            ComponentRequest::Anew => match &mut self.open {
                Some(open) if open.offer.is_none() && !lists(world.desk.rice()).contains(&open.name()) => self.leave(),
                Some(open) if open.offer.is_none() && open.outside.is_none() => {
                    let picked = open.picked;
                    open.fill(world, &mut self.wishes);
                    open.searched(world);
                    open.go(picked, world);
                    true
                }
                Some(_) => true,
                None => false,
            },
            ComponentRequest::Listed(list) => match &mut self.open {
                Some(open) if open.offer.is_none() && open.name() == list && open.outside.is_none() => {
                    let picked = open.picked;
                    open.fill(world, &mut self.wishes);
                    open.searched(world) && {
                        open.go(picked, world);
                        true
                    }
                }
                _ => false,
            },
            ComponentRequest::Paste(text) => self.open.as_mut().is_some_and(|open| open.types(text, world)),
            ComponentRequest::Menu(..) | ComponentRequest::Close { menus: true } => self.leave(),
            _ => false,
        };
        if let (true, Some(open)) = (changed, &mut self.open) {
            open.board = open.arranged(world);
        }
        changed
    }

    fn take_requests(&mut self) -> Vec<ComponentRequest> {
        std::mem::take(&mut self.wishes)
    }
}
