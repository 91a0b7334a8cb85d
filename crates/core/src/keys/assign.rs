//! The cheapest places for bindings that must not be in each other's way: assignment as the lower bound, branch and bound
//! over what assignment does not see (one sequence that begins another).

use std::cmp::Reverse;
use std::collections::{BinaryHeap, HashMap};

use super::keyboard::Press;

/// One place that a mover could have: its price in hundredths and its presses.
pub(super) type Offer = (i64, Vec<Press>);

/// What the search asks of the movers.
pub(super) trait Offers {
    /// The offer with a number, cheapest first; the first is to stay, where that is possible at all.
    fn offer(&mut self, mover: usize, nth: usize) -> Option<Offer>;
    /// Where a mover is now.
    fn home(&self, mover: usize) -> &[Press];
}

/// Costs count first, then the number of moves, then who moves, then which key.
const COST: i64 = 1_000_000_000_000;
const MOVE: i64 = 100_000_000;
const RANK: i64 = 1_000;
/// How many nodes a search may open before it is stopped with a gap.
const NODES: usize = 2_000;

/// Whether two sequences cannot both be bound.
pub(super) fn collide(a: &[Press], b: &[Press]) -> bool {
    let len = a.len().min(b.len());
    a[..len] == b[..len]
}

/// A restriction of one branch.
#[derive(Debug, Clone)]
enum Rule {
    /// A mover may not have exactly these presses.
    Not(usize, Vec<Press>),
    /// A mover may not have presses that collide with these.
    Clear(usize, Vec<Press>),
    /// A mover stays, beside others of the same action.
    Stays(usize),
    /// Nobody but those who stay there may collide with these.
    Held(Vec<Press>),
}

/// A branch: its rules, and the best that assignment finds under them.
struct Node {
    rules: Vec<Rule>,
    bound: i64,
    chosen: Vec<Offer>,
}

/// An answer: the price in hundredths, by how much a better one could be cheaper at most, and an offer for each mover.
pub(super) struct Answer {
    pub gap: i64,
    pub chosen: Vec<Offer>,
}

/// The cheapest places of a group of movers; else who has no place. `classes` are movers of one action at one press.
pub(super) fn settle_group(group: &[usize], classes: &[Vec<usize>], offers: &mut dyn Offers) -> Result<Answer, usize> {
    let mut open: BinaryHeap<Reverse<(i64, usize)>> = BinaryHeap::new();
    let mut nodes: Vec<Node> = Vec::new();
    let mut stuck = None;
    for rules in roots(classes, offers) {
        match bound(group, rules, offers) {
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
        let stopped = nodes.len() > NODES;
        let Some((a, b)) = collision(&nodes[at]) else {
            let gap = if stopped { (nodes[at].bound - least) / COST } else { 0 };
            return Ok(Answer { gap, chosen: std::mem::take(&mut nodes[at].chosen) });
        };
        // Either the short one is elsewhere, or the long one keeps out of its way.
        let short = nodes[at].chosen[a].1.clone();
        let branches = [Rule::Not(group[a], short.clone()), Rule::Clear(group[b], short)];
        if stopped {
            // Out of time: straight down the cheaper branch, to whatever answer is there.
            open.clear();
        }
        for rule in branches {
            let mut rules = nodes[at].rules.clone();
            rules.push(rule);
            match bound(group, rules, offers) {
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

/// The first branches: of movers that share a press and an action, all stay together, or none of them does.
fn roots(classes: &[Vec<usize>], offers: &dyn Offers) -> Vec<Vec<Rule>> {
    let mut roots: Vec<Vec<Rule>> = vec![Vec::new()];
    for class in classes {
        let Some(home) = class.first().map(|mover| offers.home(*mover).to_vec()) else { continue };
        let stay = class.iter().map(|mover| Rule::Stays(*mover)).chain([Rule::Held(home.clone())]);
        let leave = class.iter().map(|mover| Rule::Not(*mover, home.clone()));
        let (stay, leave): (Vec<Rule>, Vec<Rule>) = (stay.collect(), leave.collect());
        roots =
            roots.into_iter().flat_map(|root| [[root.clone(), stay.clone()].concat(), [root, leave.clone()].concat()]).collect();
    }
    roots
}

fn allowed(mover: usize, presses: &[Press], rules: &[Rule]) -> bool {
    let stays = rules.iter().any(|rule| matches!(rule, Rule::Stays(other) if *other == mover));
    rules.iter().all(|rule| match rule {
        Rule::Not(other, not) => *other != mover || not != presses,
        Rule::Clear(other, of) => *other != mover || !collide(presses, of),
        Rule::Held(held) => stays || !collide(presses, held),
        Rule::Stays(_) => true,
    })
}

/// The best that assignment finds under some rules.
fn bound(group: &[usize], rules: Vec<Rule>, offers: &mut dyn Offers) -> Result<Node, usize> {
    let stays = |mover: usize| rules.iter().any(|rule| matches!(rule, Rule::Stays(other) if *other == mover));
    let mut places: HashMap<Vec<Press>, usize> = HashMap::new();
    let mut count = 0;
    let mut rows: Vec<Vec<(i64, usize)>> = Vec::with_capacity(group.len());
    let mut kept: Vec<Vec<Offer>> = Vec::with_capacity(group.len());
    for (position, mover) in group.iter().copied().enumerate() {
        let (mut row, mut own) = (Vec::new(), Vec::new());
        let mut nth = 0;
        // Others can take one place each: as many offers as there are movers are enough.
        while own.len() < group.len() {
            let Some(offer) = offers.offer(mover, nth) else { break };
            let moves = offer.1 != offers.home(mover);
            let here =
                if moves { offer.0 * COST + MOVE + (group.len() - position) as i64 * RANK + nth.min(999) as i64 } else { 0 };
            nth += 1;
            if stays(mover) && moves {
                break;
            }
            if allowed(mover, &offer.1, &rules) {
                // Those who stay together share their place: each has it to itself here.
                let place = if stays(mover) { count } else { *places.entry(offer.1.clone()).or_insert(count) };
                count = count.max(place + 1);
                row.push((here, place));
                own.push(offer);
            }
        }
        if row.is_empty() {
            return Err(mover);
        }
        rows.push(row);
        kept.push(own);
    }
    let (bound, picks) = assign(&rows, count).map_err(|row| group[row])?;
    let chosen = kept.into_iter().zip(picks).map(|(mut own, pick)| own.swap_remove(pick)).collect();
    Ok(Node { rules, bound, chosen })
}

/// Two movers of which the first one's sequence begins the second one's.
fn collision(node: &Node) -> Option<(usize, usize)> {
    let by_presses: HashMap<&[Press], usize> =
        node.chosen.iter().enumerate().map(|(at, offer)| (offer.1.as_slice(), at)).collect();
    node.chosen.iter().enumerate().find_map(|(long, offer)| {
        let presses = &offer.1;
        (1..presses.len()).find_map(|len| by_presses.get(&presses[..len]).map(|short| (*short, long)))
    })
}

/// The cheapest assignment of rows to places, each place once: shortest augmenting paths with potentials. Rows hold
/// (price, place). Gives the sum and each row's pick, or a row that has no place.
fn assign(rows: &[Vec<(i64, usize)>], places: usize) -> Result<(i64, Vec<usize>), usize> {
    let mut owner: Vec<Option<usize>> = vec![None; places];
    let mut pick = vec![usize::MAX; rows.len()];
    let (mut of_row, mut of_place) = (vec![0_i64; rows.len()], vec![0_i64; places]);
    for start in 0..rows.len() {
        let mut far = vec![i64::MAX; places];
        let mut from: Vec<(usize, usize)> = vec![(usize::MAX, usize::MAX); places];
        let mut done = vec![false; places];
        let mut reached: Vec<usize> = Vec::new();
        let mut heap = BinaryHeap::new();
        of_row[start] = rows[start].iter().map(|(price, place)| price - of_place[*place]).min().unwrap_or(0);
        let (mut row, mut base) = (start, 0);
        let end = loop {
            for (edge, (price, place)) in rows[row].iter().enumerate() {
                let length = base + price - of_row[row] - of_place[*place];
                if !done[*place] && length < far[*place] {
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
    Ok((sum, pick))
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
            let mut best: Option<i64> = None;
            for a in &rows[0] {
                for b in rows[1].iter().filter(|b| b.1 != a.1) {
                    for c in rows[2].iter().filter(|c| c.1 != a.1 && c.1 != b.1) {
                        let sum = a.0 + b.0 + c.0;
                        best = Some(best.map_or(sum, |best| best.min(sum)));
                    }
                }
            }
            prop_assert_eq!(assign(&rows, 4).ok().map(|(sum, _)| sum), best);
        }
    }
}
