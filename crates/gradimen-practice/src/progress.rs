//! How far somebody has come: the best of what was handed in, exercise by exercise.

use std::collections::BTreeSet;

use gradimen_bench::export::summary::{HandedIn, PracticeLine};

use crate::exercises::{ALL, Exercise};

/// How one exercise stands.
#[derive(Debug, Clone)]
pub struct Standing<T> {
    /// Which.
    pub exercise: &'static Exercise,
    /// How often it was begun.
    pub times: usize,
    /// The best that was handed in, and what it belongs to.
    pub best: Option<(T, HandedIn)>,
}

/// Everybody who practised by name, in the order of their names.
pub fn hands<'a>(lines: impl Iterator<Item = &'a PracticeLine>) -> BTreeSet<&'a str> {
    lines.filter_map(|line| line.by.as_deref()).collect()
}

/// At par before not, then with less left out, then quicker, then with fewer moves.
const fn rank(handed: &HandedIn) -> (bool, u32, u32, u32) {
    let took = handed.took;
    (!handed.par, handed.out, took.minutes, took.moves)
}

/// All exercises, from what was begun and handed in of each.
pub fn standings<T: Copy>(tried: &[(T, &PracticeLine)]) -> Vec<Standing<T>> {
    ALL.iter()
        .map(|exercise| {
            let of_it = || {
                let all = tried.iter();
                all.filter(|(_, line)| line.exercise.as_deref() == Some(exercise.key))
            };
            let handed = of_it().filter_map(|(of, line)| Some((*of, line.handed_in?)));
            Standing {
                exercise,
                times: of_it().count(),
                best: handed.min_by_key(|(_, handed)| rank(handed)),
            }
        })
        .collect()
}

/// How many of them are at par.
pub fn at_par<T>(standings: &[Standing<T>]) -> usize {
    let best = standings.iter().filter_map(|one| one.best.as_ref());
    best.filter(|(_, handed)| handed.par).count()
}

#[cfg(test)]
mod tests {
    use super::*;
    use gradimen_bench::export::summary::Took;
    use gradimen_bench::model::Hints;

    fn tried(exercise: &str, handed: Option<(u32, u32, bool)>) -> PracticeLine {
        PracticeLine {
            by: handed.map(|_| "Ash".to_owned()),
            exercise: Some(exercise.to_owned()),
            hints: Hints::Off,
            plan: Took {
                moves: 7,
                minutes: 30,
            },
            handed_in: handed.map(|(minutes, out, par)| HandedIn {
                took: Took { moves: 9, minutes },
                out,
                par,
            }),
        }
    }

    #[test]
    fn the_best_is_at_par_before_it_is_quick() {
        let lines = [
            tried("season", Some((12, 3, false))),
            tried("season", Some((31, 0, true))),
            tried("season", Some((40, 0, true))),
            tried("season", None),
            tried("barrels", Some((20, 2, false))),
            tried("no such thing", Some((1, 0, true))),
        ];
        let all: Vec<(usize, &PracticeLine)> = lines.iter().enumerate().collect();
        let standings = standings(&all);
        assert_eq!(standings.len(), ALL.len());
        let of = |key: &str| {
            standings
                .iter()
                .find(|one| one.exercise.key == key)
                .unwrap()
        };
        let season = of("season");
        assert_eq!((season.times, season.best.map(|(at, _)| at)), (4, Some(1)));
        assert_eq!(
            of("barrels").best.map(|(at, handed)| (at, handed.par)),
            Some((4, false))
        );
        assert!(of("nut_slots").best.is_none() && of("nut_slots").times == 0);
        assert_eq!(at_par(&standings), 1);
        assert_eq!(hands(lines.iter()).into_iter().collect::<Vec<_>>(), ["Ash"]);
    }
}
