//! The main colours of a picture: k-means in Oklab, from the same beginning each time.

use jovrik_schema::Colour;

/// A group of near colours.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Cluster {
    /// Its middle.
    pub colour: Colour,
    /// Its share of the picture, from 0 to 1.
    pub share: f32,
}

type Lab = [f32; 3];

fn lab(colour: Colour) -> Lab {
    let [light, chroma, hue, _] = colour.to_oklch();
    let (sin, cos) = (hue * std::f32::consts::TAU).sin_cos();
    [light, chroma * cos, chroma * sin]
}

fn colour(lab: Lab) -> Colour {
    let [light, a, b] = lab;
    Colour::of_oklch([light, a.hypot(b), (b.atan2(a) / std::f32::consts::TAU).rem_euclid(1.0), 1.0])
}

/// How far two colours are apart; what differs in colour counts more than what differs in lightness.
fn apart(x: Lab, y: Lab) -> f32 {
    let [l, a, b] = [x[0] - y[0], x[1] - y[1], x[2] - y[2]];
    l * l + 4.0 * (a * a + b * b)
}

/// At most `most` main colours of some pixels, the largest first. The same pixels give the same colours.
pub fn clusters(pixels: impl IntoIterator<Item = Colour>, most: usize) -> Vec<Cluster> {
    // Like colours are counted first: 5 bits a channel tell enough apart.
    let mut counts: std::collections::BTreeMap<(u8, u8, u8), (f64, [f64; 3])> = std::collections::BTreeMap::new();
    for Colour { r, g, b, a } in pixels {
        if a < 128 {
            continue;
        }
        let (count, sum) = counts.entry((r >> 3, g >> 3, b >> 3)).or_default();
        *count += 1.0;
        sum.iter_mut().zip([r, g, b]).for_each(|(sum, channel)| *sum += f64::from(channel));
    }
    let points: Vec<(Lab, f32)> = counts
        .into_values()
        .map(|(count, sum)| {
            let [r, g, b] = sum.map(|sum| (sum / count).round() as u8);
            (lab(Colour { r, g, b, a: 255 }), count as f32)
        })
        .collect();
    let total: f32 = points.iter().map(|(_, count)| count).sum();
    if points.is_empty() {
        return Vec::new();
    }
    // The beginning: the most frequent colour, then always the one that is farthest from all chosen, by its weight.
    let heaviest = points.iter().max_by(|a, b| a.1.total_cmp(&b.1)).map_or(points[0].0, |point| point.0);
    let mut middles = vec![heaviest];
    while middles.len() < most {
        let far = |(at, count): &(Lab, f32)| {
            middles.iter().map(|middle| apart(*at, *middle)).fold(f32::MAX, f32::min) * (1.0 + count).ln()
        };
        match points.iter().max_by(|a, b| far(a).total_cmp(&far(b))) {
            Some(point) if far(point) > 1e-4 => middles.push(point.0),
            _ => break,
        }
    }
    let mut sums = Vec::new();
    for _ in 0..16 {
        sums = vec![([0.0_f32; 3], 0.0_f32); middles.len()];
        for (at, count) in &points {
            let nearest = (0..middles.len()).min_by(|a, b| apart(*at, middles[*a]).total_cmp(&apart(*at, middles[*b])));
            let (sum, weight) = &mut sums[nearest.unwrap_or(0)];
            sum.iter_mut().zip(at).for_each(|(sum, value)| *sum += value * count);
            *weight += count;
        }
        let mut moved = 0.0_f32;
        for (middle, (sum, weight)) in middles.iter_mut().zip(&sums) {
            if *weight > 0.0 {
                let new = sum.map(|sum| sum / weight);
                moved = moved.max(apart(new, *middle));
                *middle = new;
            }
        }
        if moved < 1e-7 {
            break;
        }
    }
    let mut found: Vec<Cluster> = middles
        .into_iter()
        .zip(sums)
        .filter(|(_, (_, weight))| *weight > 0.0)
        .map(|(middle, (_, weight))| Cluster { colour: colour(middle), share: weight / total })
        .collect();
    found.sort_by(|a, b| b.share.total_cmp(&a.share).then(a.colour.hex().cmp(&b.colour.hex())));
    found
}
