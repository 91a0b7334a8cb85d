//! Widgets: what they show is there, and so is the place they lie at.

use jovrik_text::problem::{Problem, count};
use jovrik_toml::{SpannedValue, TomlValue};
use jovrik_values::{PixelRect, Rect};

use super::bar::{AtMost, Ruler, fields_of, no_field, presses};
use super::{CheckContext, HostInfo};
use crate::bar::BarInput;
use crate::desk::{MonitorFacts, WindowManager};
use crate::rice::{BuiltInSource, RelativePosition, Rice, ScaleBound, Widget, WidgetKind, WidgetPosition, WidgetRepeat};
use crate::scene::{Measure, TextStyle};
use crate::widget::{PlacedWidget, WidgetCache, arrange, module_of};

pub(super) fn check(looker: &CheckContext<'_>, problems: &mut Vec<Problem>) {
    let rice = looker.rice;
    for (name, widget) in rice.widget.iter() {
        sources(looker, name, widget, problems);
        fields(looker, name, widget, problems);
        by_another(looker, name, widget, problems);
        presses(looker, &["widget", name, "press"], problems);
    }
}

/// Where a widget says something, else where it begins.
fn place<'l>(looker: &'l CheckContext<'_>, name: &str, settings: &[&str]) -> Option<&'l SpannedValue> {
    settings.iter().find_map(|setting| looker.node(&["widget", name, setting]))
}

/// What it is to show something of is not there.
fn sources(looker: &CheckContext<'_>, name: &str, widget: &Widget, problems: &mut Vec<Problem>) {
    const WHY: &str = "The widget would stay empty. Modules are made in [module.NAME].";
    let modules = looker.rolls.modules(looker.rice);
    let node = looker.node(&["widget", name, "module"]);
    if let Some(node) = node.filter(|_| !widget.module.is_empty() && !modules.has(&widget.module)) {
        problems.push(modules.no_such("widget/no-source", &widget.module, node, WHY));
        return;
    }
    if let Some(TomlValue::Array(items)) = looker.node(&["widget", name, "rows"]).map(|node| &node.value) {
        for item in items {
            let row = item.text().filter(|row| !modules.has(row));
            problems.extend(row.map(|row| modules.no_such("widget/no-source", row, item, WHY)));
        }
    }
    let (lacks, advice) = match widget.kind {
        WidgetKind::Ring | WidgetKind::Meter | WidgetKind::Graph if widget.module.is_empty() => ("a module", "module = \"cpu\""),
        WidgetKind::Clock if module_of(looker.rice, widget).is_none() => ("a module of the time", "[module.clock]"),
        WidgetKind::List if widget.rows.is_empty() => ("rows", "rows = [\"cpu\", \"memory\"]"),
        WidgetKind::Picture if widget.picture.is_empty() => ("a picture", "picture = \"art/gauge.png\""),
        WidgetKind::Text if widget.module.is_empty() && widget.text.is_none() => ("a text or a module", "text = \"station 4\""),
        _ => {
            cores(looker, name, widget, problems);
            return;
        }
    };
    if let Some(node) = place(looker, name, &["kind", "at", "label", "offset", "width"]) {
        let advised = if widget.kind == WidgetKind::Clock { "with source = \"time\"" } else { "what it shows" };
        problems.push(
            Problem::error("widget/no-source", format!("the widget {name} has nothing to show"))
                .at(node.span, format!("a {} needs {lacks}", widget.kind.word()))
                .because("It would stay empty.")
                .advise(advice, advised),
        );
    }
}

/// One for each core of something that has none.
fn cores(looker: &CheckContext<'_>, name: &str, widget: &Widget, problems: &mut Vec<Problem>) {
    let module = module_of(looker.rice, widget).map(|(_, module)| module);
    let has = module.is_some_and(|module| module.source.kind.is(BuiltInSource::Cpu));
    let Some(node) = looker.node(&["widget", name, "each"]) else { return };
    let drawn = matches!(widget.kind, WidgetKind::Ring | WidgetKind::Meter | WidgetKind::Text);
    if widget.each == WidgetRepeat::Core && !(has && drawn) {
        let why = match has {
            false => format!("the source of {} has no cores: only cpu has", widget.module),
            true => format!("a {} is one for all: rings, meters and texts can be several", widget.kind.word()),
        };
        problems.push(
            Problem::error("widget/cores", format!("the widget {name} cannot be one for each core"))
                .at(node.span, why)
                .because("Nothing would be seen of it."),
        );
    }
}

/// Fields that its module does not have.
fn fields(looker: &CheckContext<'_>, name: &str, widget: &Widget, problems: &mut Vec<Problem>) {
    let Some((of, module)) = module_of(looker.rice, widget) else { return };
    let Some(mut fields) = fields_of(module) else { return };
    if widget.each == WidgetRepeat::Core {
        fields.push("core");
    }
    let end = |end: &'_ ScaleBound| match end {
        ScaleBound::Field(field) => vec![field.clone()],
        ScaleBound::Number(_) => Vec::new(),
    };
    let one = |field: &String| if field.is_empty() { Vec::new() } else { vec![field.clone()] };
    let named = [
        ("text", widget.text.iter().flat_map(|text| text.fields()).map(str::to_owned).collect()),
        ("field", one(&widget.field)),
        ("from", end(&widget.from)),
        ("to", end(&widget.to)),
        ("mark", one(&widget.mark)),
    ];
    for (setting, names) in named {
        let Some(node) = looker.node(&["widget", name, setting]) else { continue };
        for field in names.iter().filter(|field| !fields.contains(&field.as_str())) {
            problems.push(no_field(of, module, &fields, field, node));
        }
    }
}

/// Another widget that it lies by, and that is not there, or lies by this one.
fn by_another(looker: &CheckContext<'_>, name: &str, widget: &Widget, problems: &mut Vec<Problem>) {
    let (rice, widgets) = (looker.rice, looker.rolls.widgets(looker.rice));
    let WidgetPosition::By(_, other) = &widget.at else { return };
    let Some(node) = looker.node(&["widget", name, "at"]) else { return };
    if !widgets.has(other) {
        problems.push(widgets.no_such("widget/no-widget", other, node, "It would lie nowhere, and not be seen."));
        return;
    }
    let mut chain = vec![name];
    let mut next = other.as_str();
    while !chain.contains(&next) {
        chain.push(next);
        match rice.widget.get(next).map(|widget| &widget.at) {
            Some(WidgetPosition::By(_, other)) => next = other,
            _ => return,
        }
    }
    // A ring is told once, where it begins in the rice.
    let first = rice.widget.keys().find(|own| chain.contains(&own.as_str()));
    if next == name && first.is_some_and(|first| first == name) {
        let ring = chain.iter().chain([&next]).copied().collect::<Vec<_>>().join(", ");
        problems.push(
            Problem::error("widget/loop", "widgets lie by each other in a ring")
                .at(node.span, ring)
                .because("None of them would lie anywhere, so none is seen.")
                .advise("at = \"top-left\"", "gives one of them a place of its own"),
        );
    }
}

/// Widgets that do not fit the monitors of a computer, or lie over each other there.
pub(super) fn room(looker: &CheckContext<'_>, around: &dyn HostInfo, measure: &dyn HostInfo, problems: &mut Vec<Problem>) {
    let rice = looker.rice;
    if rice.widget.is_empty() {
        return;
    }
    let Some(monitors) = around.monitors() else { return };
    let known = around.known(rice);
    let desk = WindowManager::new(looker.shared.clone(), monitors);
    let now = BarInput::of(&known);
    let measures = measure.width("0", &TextStyle::new(&rice.r#type.text, rice.r#type.size.0)).is_some();
    let mut told: Vec<(&'static str, String)> = Vec::new();
    for (nth, monitor) in desk.monitors.iter().enumerate() {
        let facts = &monitor.facts;
        let found =
            |measure: &mut dyn Measure| amiss(rice, facts, &arrange(&desk, nth, &now, measure, &mut WidgetCache::default()));
        // What fits however wide its letters are is not measured.
        let roomy = found(&mut AtMost(Ruler(measure)));
        if roomy.is_empty() || !measures {
            continue;
        }
        for one in found(&mut Ruler(measure)) {
            let key = (one.code, one.name.clone());
            if told.contains(&key) {
                continue;
            }
            told.push(key);
            let Some(node) = place(looker, &one.name, &["at", "offset", "kind", "module", "text"]) else { continue };
            let problem = Problem::warning(one.code, one.title).at(node.span, one.note);
            problems.push(match one.code {
                "widget/off-screen" => problem.because("What lies beside the screen is not seen.").advise(
                    format!("jovrik set widget.{}.offset '[0, 0]' --overlay NAME", one.name),
                    "an overlay for this monitor can move it",
                ),
                _ => problem
                    .because("One hides the other.")
                    .advise(format!("jovrik set widget.{}.offset '[X, Y]'", one.name), "moves it"),
            });
        }
    }
}

/// Something that is wrong with where a widget lies.
struct Amiss {
    code: &'static str,
    name: String,
    title: String,
    note: String,
}

/// Pixels that nobody misses.
const LITTLE: f32 = 1.5;

fn amiss(rice: &Rice, facts: &MonitorFacts, laid: &[PlacedWidget]) -> Vec<Amiss> {
    let where_at = format!("{} ({}x{})", facts.name, facts.area.w, facts.area.h);
    let mut found = Vec::new();
    for (nth, one) in laid.iter().enumerate() {
        let missing = beside(one.rect, facts.area);
        if missing > LITTLE {
            found.push(Amiss {
                code: "widget/off-screen",
                name: one.name.clone(),
                title: format!("the widget {} does not fit the screen", one.name),
                note: format!("{} of it beside {where_at}", count(missing.ceil() as usize, "pixel")),
            });
        }
        for other in &laid[..nth] {
            let (w, h) = (
                shared(one.rect.x, one.rect.w, other.rect.x, other.rect.w),
                shared(one.rect.y, one.rect.h, other.rect.y, other.rect.h),
            );
            if w > LITTLE && h > LITTLE && !meant(rice, &one.name, &other.name) {
                found.push(Amiss {
                    code: "widget/overlap",
                    name: one.name.clone(),
                    title: format!("the widgets {} and {} lie over each other", other.name, one.name),
                    note: format!("{w:.0}x{h:.0} pixels of both on {where_at}"),
                });
            }
        }
    }
    found
}

/// How far two lengths lie over each other.
fn shared(a: f32, long: f32, b: f32, other: f32) -> f32 {
    (a + long).min(b + other) - a.max(b)
}

/// How far something reaches beyond a monitor.
fn beside(rect: Rect, area: PixelRect) -> f32 {
    let area = Rect::from(area);
    let over = [area.x - rect.x, area.y - rect.y, rect.x + rect.w - area.x - area.w, rect.y + rect.h - area.y - area.h];
    over.into_iter().fold(0.0, f32::max)
}

/// Whether two widgets are to lie over each other: one is inside the other, or a picture behind it.
fn meant(rice: &Rice, one: &str, other: &str) -> bool {
    let inside = |one: &str, other: &str| {
        let mut name = one;
        // No chain is longer than there are widgets.
        for _ in 0..rice.widget.len() {
            match rice.widget.get(name).map(|widget| &widget.at) {
                Some(WidgetPosition::By(RelativePosition::Inside, at)) if at == other => return true,
                Some(WidgetPosition::By(_, at)) => name = at,
                _ => return false,
            }
        }
        false
    };
    let picture = |name: &str| rice.widget.get(name).is_some_and(|widget| widget.kind == WidgetKind::Picture);
    inside(one, other) || inside(other, one) || picture(one) || picture(other)
}
