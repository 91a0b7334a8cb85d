//! The cheapest places for bindings that must not be in each other's way: assignment as the lower bound, branch and bound
//! over what assignment does not see (one sequence that begins another, one scope that takes from another).

use std::cmp::Reverse;
use std::collections::{BTreeMap, BinaryHeap};
use std::rc::Rc;

use foldhash::{HashMap, HashMapExt};

/// One place that a mover could have: its price in hundredths, and its number.
pub(super) type PricedCandidate = (i64, usize);

/// What the search asks of the movers.
pub(super) trait Offers {
    /// The offer with a number, cheapest first; the first is to stay, where that is possible at all.
    fn offer(&mut self, mover: usize, nth: usize) -> Option<PricedCandidate>;
    /// Where a mover is now.
    fn home(&self, mover: usize) -> usize;
    /// Movers of one table cannot have one place.
    fn table(&self, mover: usize) -> usize;
    /// Whether two movers cannot have these places together.
    fn collide(&self, a: (usize, usize), b: (usize, usize)) -> bool;
    /// All pairs that collide among movers at their places, by their positions; the first few are enough.
    fn collisions(&self, chosen: &[(usize, usize)]) -> Vec<(usize, usize)>;
}

/// Costs count first, then the number of moves, then who moves, then which key.
const COST: i64 = 1_000_000_000_000;
const MOVE: i64 = 100_000_000;
const RANK: i64 = 1_000;
/// How many nodes a search may open before it is stopped with a gap.
const NODES: usize = 2_000;
/// How many movers a search may look at, over all of its groups and nodes.
const MAX_SEARCHED_MOVES: usize = 150_000;
/// How many offers a mover is asked for at first.
const FIRST_OFFERS: usize = 6;

/// A restriction of one branch.
#[derive(Debug, Clone, PartialEq, Eq, Hash)]
pub(super) enum Rule {
    /// A mover may not have this place.
    Not(usize, usize),
    /// A mover must have this place.
    Only(usize, usize),
    /// A mover may not collide with another one at a place.
    Clear(usize, (usize, usize)),
    /// A mover stays, beside others that do the same.
    Stays(usize),
    /// Nobody but those who stay may collide with a mover that does.
    Held(usize),
}

/// A branch: its rules, and the best that assignment finds under them.
struct Node {
    rules: Vec<Rule>,
    bound: i64,
    parts: Vec<Rc<Part>>,
}

/// The movers of one table: assignment does not see that others are in their way, so each table is assigned by itself.
struct Part {
    bound: i64,
    chosen: Vec<PricedCandidate>,
}

/// A group by its tables, and what was assigned under which rules.
struct Parts<'a> {
    group: &'a [usize],
    /// The movers of each table, by their positions in the group.
    members: Vec<Vec<usize>>,
    /// The table of each mover, by its position in `members`.
    of: HashMap<usize, usize>,
    known: HashMap<(usize, Vec<Rule>), Result<Rc<Part>, usize>>,
}

impl Parts<'_> {
    fn new<'a>(group: &'a [usize], offers: &dyn Offers) -> Parts<'a> {
        let mut tables: BTreeMap<usize, Vec<usize>> = BTreeMap::new();
        for (at, mover) in group.iter().enumerate() {
            tables.entry(offers.table(*mover)).or_default().push(at);
        }
        let members: Vec<Vec<usize>> = tables.into_values().collect();
        let of = members.iter().enumerate().flat_map(|(nth, all)| all.iter().map(move |at| (group[*at], nth))).collect();
        Parts { group, members, of, known: HashMap::new() }
    }

    /// The best that assignment finds under some rules; else who has no place. Only tables that have new rules since
    /// `before` are assigned.
    fn node(
        &mut self,
        rules: Vec<Rule>,
        before: Option<(&[Rc<Part>], usize)>,
        offers: &mut dyn Offers,
        work: &mut Work,
    ) -> Result<Node, usize> {
        let part_of = |rule: &Rule| match rule {
            Rule::Not(mover, _) | Rule::Only(mover, _) | Rule::Clear(mover, _) | Rule::Stays(mover) => {
                self.of.get(mover).copied()
            }
            Rule::Held(_) => None,
        };
        let (mut parts, new) = match before {
            Some((parts, known)) => (parts.to_vec(), rules[known..].iter().filter_map(part_of).collect()),
            None => (Vec::new(), (0..self.members.len()).collect::<Vec<usize>>()),
        };
        for nth in new {
            let own: Vec<Rule> = rules.iter().filter(|rule| part_of(rule).is_none_or(|part| part == nth)).cloned().collect();
            let part = match self.known.get(&(nth, own.clone())) {
                Some(known) => known.clone(),
                None => {
                    work.0 += self.members[nth].len() * 8;
                    let made = bound(self.group, &self.members[nth], &own, offers).map(Rc::new);
                    self.known.insert((nth, own), made.clone());
                    made
                }
            };
            match parts.get_mut(nth) {
                Some(old) => *old = part?,
                None => parts.push(part?),
            }
        }
        Ok(Node { rules, bound: parts.iter().map(|part| part.bound).sum(), parts })
    }

    /// What each mover of the group chose.
    fn chosen(&self, node: &Node) -> Vec<PricedCandidate> {
        let mut chosen = vec![(0, 0); self.group.len()];
        for (members, part) in self.members.iter().zip(&node.parts) {
            members.iter().zip(&part.chosen).for_each(|(at, offer)| chosen[*at] = *offer);
        }
        chosen
    }
}

/// How much a search has done, in movers that were looked at; deterministic, unlike time.
#[derive(Debug, Default)]
pub(super) struct Work(pub usize);

/// An answer: by how much a better one could be cheaper at most, in hundredths, and an offer for each mover.
#[derive(Debug, Clone)]
pub(super) struct GroupSolution {
    pub gap: i64,
    pub chosen: Vec<PricedCandidate>,
}

/// The cheapest places of a group of movers under rules; else who has no place. `classes` are movers of one table that do
/// the same at one place, who may stay there together.
pub(super) fn settle_group(
    group: &[usize],
    classes: &[Vec<usize>],
    given: &[Rule],
    offers: &mut dyn Offers,
    work: &mut Work,
) -> Result<GroupSolution, usize> {
    let mut open: BinaryHeap<Reverse<(i64, usize)>> = BinaryHeap::new();
    let mut nodes: Vec<Node> = Vec::new();
    let mut stuck = None;
    let mut parts = Parts::new(group, offers);
    for rules in roots(classes, given, offers) {
        match parts.node(rules, None, offers, work) {
            Ok(node) => {
                open.push(Reverse((node.bound, nodes.len())));
                nodes.push(node);
            }
            Err(mover) => stuck = Some(mover),
        }
    }
    let mut least = None;
    while let Some(Reverse((lower, at))) = open.pop() {
        let least = *least.get_or_insert(lower);
        let stopped = nodes.len() > NODES || work.0 > MAX_SEARCHED_MOVES;
        work.0 += group.len();
        let stays = |mover: usize| nodes[at].rules.contains(&Rule::Stays(mover));
        let chosen: Vec<(usize, usize)> =
            group.iter().copied().zip(parts.chosen(&nodes[at]).into_iter().map(|offer| offer.1)).collect();
        let pair = offers.collisions(&chosen).into_iter().find(|(a, b)| !(stays(group[*a]) && stays(group[*b])));
        let Some((a, b)) = pair else {
            let gap = if stopped { (nodes[at].bound - least) / COST } else { 0 };
            return Ok(GroupSolution { gap, chosen: parts.chosen(&nodes[at]) });
        };
        // Either the first is elsewhere, or the second keeps out of its way.
        let branches = [Rule::Not(chosen[a].0, chosen[a].1), Rule::Clear(chosen[b].0, chosen[a])];
        if stopped {
            // Out of time: straight down the cheaper branch, to whatever answer is there.
            open.clear();
        }
        for (nth, rule) in branches.into_iter().enumerate() {
            let mut rules = nodes[at].rules.clone();
            if nth == 1 {
                rules.push(Rule::Only(chosen[a].0, chosen[a].1));
            }
            rules.push(rule);
            let known = nodes[at].rules.len();
            let made = parts.node(rules, Some((&nodes[at].parts, known)), offers, work);
            match made {
                Ok(node) => {
                    open.push(Reverse((node.bound, nodes.len())));
                    nodes.push(node);
                }
                Err(mover) => stuck = Some(mover),
            }
        }
    }
    Err(stuck.or_else(|| group.last().copied()).unwrap_or_default())
}

/// The first branches: of movers that share a place and do the same, all stay together, or none of them does.
fn roots(classes: &[Vec<usize>], given: &[Rule], offers: &dyn Offers) -> Vec<Vec<Rule>> {
    let mut roots: Vec<Vec<Rule>> = vec![given.to_vec()];
    // Every class doubles them; beyond a few, those that do the same are taken for any others.
    for class in classes.iter().take(8) {
        let Some(first) = class.first() else { continue };
        let home = offers.home(*first);
        let stay = class.iter().map(|mover| Rule::Stays(*mover)).chain([Rule::Held(*first)]);
        let leave = class.iter().map(|mover| Rule::Not(*mover, home));
        let (stay, leave): (Vec<Rule>, Vec<Rule>) = (stay.collect(), leave.collect());
        roots =
            roots.into_iter().flat_map(|root| [[root.clone(), stay.clone()].concat(), [root, leave.clone()].concat()]).collect();
    }
    roots
}

/// The rules of one mover.
fn rules_of(mover: usize, rules: &[Rule]) -> Vec<&Rule> {
    let own = |rule: &&Rule| match rule {
        Rule::Not(other, _) | Rule::Only(other, _) | Rule::Clear(other, _) | Rule::Stays(other) => *other == mover,
        Rule::Held(_) => true,
    };
    rules.iter().filter(own).collect()
}

fn allowed(mover: usize, place: usize, rules: &[&Rule], offers: &dyn Offers) -> bool {
    let stays = rules.iter().any(|rule| matches!(rule, Rule::Stays(_)));
    rules.iter().all(|rule| match rule {
        Rule::Not(_, not) => *not != place,
        Rule::Only(_, only) => *only == place,
        Rule::Clear(_, of) => !offers.collide(*of, (mover, place)),
        Rule::Held(first) => stays || !offers.collide((*first, offers.home(*first)), (mover, place)),
        Rule::Stays(_) => true,
    })
}

/// One mover's part of the assignment: what it was offered, and where to ask on.
struct CostRow {
    edges: Vec<(i64, usize)>,
    own: Vec<PricedCandidate>,
    next: usize,
    ended: bool,
}

/// The best that assignment finds under some rules. Movers are asked for few offers; for more, when one that was not seen
/// could still be better.
fn bound(group: &[usize], members: &[usize], rules: &[Rule], offers: &mut dyn Offers) -> Result<Part, usize> {
    let mut places: HashMap<(usize, usize), usize> = HashMap::new();
    let mut count = 0;
    let own_rules: Vec<Vec<&Rule>> = members.iter().map(|at| rules_of(group[*at], rules)).collect();
    let mut rows: Vec<CostRow> =
        members.iter().map(|_| CostRow { edges: Vec::new(), own: Vec::new(), next: 0, ended: false }).collect();
    let extend =
        |at: usize, row: &mut CostRow, more: usize, offers: &mut dyn Offers, places: &mut HashMap<_, _>, count: &mut usize| {
            let mover = group[members[at]];
            let stays = own_rules[at].iter().any(|rule| matches!(rule, Rule::Stays(_)));
            let wanted = row.own.len() + more;
            while row.own.len() < wanted && !row.ended {
                let Some(offer) = offers.offer(mover, row.next) else {
                    row.ended = true;
                    break;
                };
                let moves = offer.1 != offers.home(mover);
                if stays && moves {
                    row.ended = true;
                    break;
                }
                let rank = MOVE + (group.len() - members[at]) as i64 * RANK + row.next.min(999) as i64;
                let price = offer.0 * COST + if moves { rank } else { 0 };
                row.next += 1;
                if !allowed(mover, offer.1, &own_rules[at], offers) {
                    continue;
                }
                // Those who stay together share their place: each has it to itself here.
                let place = if stays { *count } else { *places.entry((offers.table(mover), offer.1)).or_insert(*count) };
                *count = (*count).max(place + 1);
                row.edges.push((price, place));
                row.own.push(offer);
                // There is no other one to look for.
                row.ended |= own_rules[at].iter().any(|rule| matches!(rule, Rule::Only(..)));
            }
        };
    for (at, row) in rows.iter_mut().enumerate() {
        extend(at, row, FIRST_OFFERS, offers, &mut places, &mut count);
        if row.own.is_empty() {
            return Err(group[members[at]]);
        }
    }
    loop {
        let edges: Vec<&[(i64, usize)]> = rows.iter().map(|row| row.edges.as_slice()).collect();
        let assigned = assign(&edges, count);
        let mut grown = false;
        match assigned {
            Ok((bound, picks, worth)) => {
                for (at, row) in rows.iter_mut().enumerate() {
                    // The next offer costs no less than the last one that was seen.
                    let last = row.edges.last().map_or(0, |edge| edge.0);
                    if !row.ended && last <= worth[at] {
                        let more = row.own.len();
                        extend(at, row, more, offers, &mut places, &mut count);
                        grown = true;
                    }
                }
                if !grown {
                    let chosen = rows.iter().zip(picks).map(|(row, pick)| row.own[pick]).collect();
                    return Ok(Part { bound, chosen });
                }
            }
            Err(stuck) => {
                for (at, row) in rows.iter_mut().enumerate().filter(|(_, row)| !row.ended) {
                    let more = row.own.len();
                    extend(at, row, more, offers, &mut places, &mut count);
                    grown = true;
                }
                if !grown {
                    return Err(group[members[stuck]]);
                }
            }
        }
    }
}

/// The cheapest assignment of rows to places, each place once: shortest augmenting paths with potentials. Rows hold
/// (price, place). Gives the sum, each row's pick, and what each row is worth (its dual); or a row that has no place.
fn assign(rows: &[&[(i64, usize)]], places: usize) -> Result<(i64, Vec<usize>, Vec<i64>), usize> {
    let mut owner: Vec<Option<usize>> = vec![None; places];
    let mut pick = vec![usize::MAX; rows.len()];
    let (mut of_row, mut of_place) = (vec![0_i64; rows.len()], vec![0_i64; places]);
    let mut far = vec![i64::MAX; places];
    let mut from: Vec<(usize, usize)> = vec![(usize::MAX, usize::MAX); places];
    let mut done = vec![false; places];
    let mut touched: Vec<usize> = Vec::new();
    for start in 0..rows.len() {
        for place in touched.drain(..) {
            (far[place], done[place]) = (i64::MAX, false);
        }
        let mut reached: Vec<usize> = Vec::new();
        let mut heap = BinaryHeap::new();
        of_row[start] = rows[start].iter().map(|(price, place)| price - of_place[*place]).min().unwrap_or(0);
        let (mut row, mut base) = (start, 0);
        let end = loop {
            for (edge, (price, place)) in rows[row].iter().enumerate() {
                let length = base + price - of_row[row] - of_place[*place];
                if !done[*place] && length < far[*place] {
                    touched.push(*place);
                    far[*place] = length;
                    from[*place] = (row, edge);
                    heap.push(Reverse((length, *place)));
                }
            }
            let next = loop {
                match heap.pop() {
                    Some(Reverse((length, place))) if !done[place] && length == far[place] => break Some(place),
                    Some(_) => {}
                    None => break None,
                }
            };
            let Some(place) = next else { return Err(start) };
            done[place] = true;
            match owner[place] {
                Some(other) => {
                    reached.push(place);
                    (row, base) = (other, far[place]);
                }
                None => break place,
            }
        };
        let total = far[end];
        for place in &reached {
            let shift = total - far[*place];
            of_place[*place] -= shift;
            if let Some(other) = owner[*place] {
                of_row[other] += shift;
            }
        }
        of_row[start] += total;
        let mut place = end;
        loop {
            let (row, edge) = from[place];
            owner[place] = Some(row);
            let before = std::mem::replace(&mut pick[row], edge);
            if row == start {
                break;
            }
            place = rows[row][before].1;
        }
    }
    let sum = rows.iter().zip(&pick).map(|(row, pick)| row[*pick].0).sum();
    Ok((sum, pick, of_row))
}

#[cfg(test)]
mod tests {
    use super::*;

    use proptest::prelude::*;

    proptest! {
        #![proptest_config(ProptestConfig { cases: 2000, failure_persistence: None, ..ProptestConfig::default() })]

        #[test]
        fn assignment_is_the_cheapest_of_all_ways(prices in prop::collection::vec(prop::collection::vec(prop::option::weighted(0.75, 0..9i64), 4), 3)) {
            let row = |row: &Vec<Option<i64>>| row.iter().enumerate().filter_map(|(place, price)| Some(((*price)?, place))).collect();
            let rows: Vec<Vec<(i64, usize)>> = prices.iter().map(row).collect();
            let edges: Vec<&[(i64, usize)]> = rows.iter().map(Vec::as_slice).collect();
            let mut best: Option<i64> = None;
            for a in &rows[0] {
                for b in rows[1].iter().filter(|b| b.1 != a.1) {
                    for c in rows[2].iter().filter(|c| c.1 != a.1 && c.1 != b.1) {
                        let sum = a.0 + b.0 + c.0;
                        best = Some(best.map_or(sum, |best| best.min(sum)));
                    }
                }
            }
            prop_assert_eq!(assign(&edges, 4).ok().map(|(sum, ..)| sum), best);
        }
    }
}
