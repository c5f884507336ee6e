//! Several things in one field, as hands write them: strings that belong together, and a length for every string.

use gradimen_bench::model::limits::shortened;

/// Strings in groups: `1-2 3-4 5-6`, a group by its first and last string, or by a `+` between those that are no neighbours.
/// A `|` between groups, and spaces within them, is read too. Nothing written is no group.
pub(crate) fn groups(text: &str) -> Result<Vec<Vec<u8>>, String> {
    if text.contains('|') {
        return text.split('|').map(|group| members(group, ' ')).collect();
    }
    let words = text.split([' ', ',', ';']);
    let groups = words.filter(|word| !word.is_empty());
    groups.map(|group| members(group, '+')).collect()
}

fn members(group: &str, between: char) -> Result<Vec<u8>, String> {
    let mut strings = Vec::new();
    let words = group.split([between, '+', ',']);
    for word in words.map(str::trim).filter(|word| !word.is_empty()) {
        let number = |part: &str| {
            let read = part.trim().parse::<u8>();
            read.map_err(|_| format!("read '{}'", shortened(word)))
        };
        match word.split_once(['-', '\u{2013}']) {
            Some((first, last)) => strings.extend(number(first)?..=number(last)?),
            None => strings.push(number(word)?),
        }
    }
    if strings.is_empty() {
        return Err(format!("read '{}'", shortened(group)));
    }
    Ok(strings)
}

/// Groups as they are written.
pub(crate) fn groups_in_words(groups: &[Vec<u8>]) -> String {
    let one = |group: &Vec<u8>| {
        let neighbours = group
            .windows(2)
            .all(|pair| u16::from(pair[0]) + 1 == u16::from(pair[1]));
        match group[..] {
            [first, .., last] if neighbours => format!("{first}-{last}"),
            _ => group
                .iter()
                .map(u8::to_string)
                .collect::<Vec<_>>()
                .join("+"),
        }
    };
    groups.iter().map(one).collect::<Vec<_>>().join(" ")
}

/// One value for every string: `0.5 0.8 0.7 mm`, `25 1/2, 25 3/4`. A comma before a space or a semicolon parts them; so do spaces
/// where there is nothing but numbers, and then a unit behind the last serves all.
pub(crate) fn values(text: &str) -> Vec<String> {
    let parts = |text: &str| {
        let spaced = text.replace(", ", ";");
        let parts = spaced.split(';').map(|part| part.trim().to_owned());
        parts.filter(|part| !part.is_empty()).collect::<Vec<_>>()
    };
    let parts = parts(text);
    let [one] = &parts[..] else { return parts };
    let unit_at = one.find(|letter: char| letter.is_alphabetic() || letter == '"');
    let (numbers, unit) = one.split_at(unit_at.unwrap_or(one.len()));
    let words: Vec<&str> = numbers.split_whitespace().collect();
    let plain = |word: &&str| {
        word.contains(|letter: char| letter.is_ascii_digit())
            && word
                .chars()
                .all(|letter| letter.is_ascii_digit() || matches!(letter, '.' | ',' | '-' | '+'))
    };
    if words.len() > 1 && words.iter().all(plain) {
        let each = words.iter().map(|word| format!("{word} {unit}"));
        return each.map(|value| value.trim().to_owned()).collect();
    }
    parts
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn strings_that_belong_together_are_written_by_first_and_last() {
        let pairs = vec![vec![1, 2], vec![3, 4], vec![5, 6]];
        for typed in [
            "1-2 3-4 5-6",
            "1-2, 3-4, 5-6",
            "1+2 3+4 5+6",
            "1 2 | 3 4 | 5 6",
            "1\u{2013}2;3-4;5-6",
        ] {
            assert_eq!(groups(typed).unwrap(), pairs, "{typed}");
        }
        assert_eq!(groups("1-6").unwrap(), [[1, 2, 3, 4, 5, 6]]);
        assert_eq!(groups("1 2 3").unwrap(), [[1], [2], [3]]);
        assert_eq!(groups(" ").unwrap(), Vec::<Vec<u8>>::new());
        for nonsense in ["1 x", "1-", "-", "1 2 |", "2-1", "300", "1-2-3"] {
            assert!(groups(nonsense).is_err(), "{nonsense}");
        }
        for written in ["1-2 3-4 5-6", "1 2 3", "1-6", "1+3 2 4"] {
            assert_eq!(groups_in_words(&groups(written).unwrap()), written);
        }
    }

    #[test]
    fn a_value_for_every_string_needs_no_signs_between() {
        let said = |text: &str| values(text).join(" | ");
        assert_eq!(said("0.5 0.8 0.7 mm"), "0.5 mm | 0.8 mm | 0.7 mm");
        assert_eq!(said("0,5 0,8"), "0,5 | 0,8");
        assert_eq!(said("0,5 mm, 0,8 mm"), "0,5 mm | 0,8 mm");
        assert_eq!(said("25 1/2 in; 25 3/4 in"), "25 1/2 in | 25 3/4 in");
        assert_eq!(said("25.5 - 27 in"), "25.5 - 27 in");
        // A fraction behind a whole number is one value.
        assert_eq!(said("25 1/2"), "25 1/2");
        assert_eq!(said("25.5-27"), "25.5-27");
        assert_eq!(said(""), "");
    }
}
