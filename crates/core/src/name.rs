//! Names, compared as they look.

use unicode_normalization::UnicodeNormalization;
use unicode_security::confusable_detection::skeleton;

/// The form in which names are compared: case, runs of white space, signs that nobody sees, and letters of other scripts that look like
/// Latin ones do not make another name. The prototypes are those of Unicode's Technical Standard 39.
#[must_use]
pub fn name_key(name: &str) -> String {
    let plain = |name: &str| name.split_whitespace().collect::<Vec<_>>().join(" ").to_lowercase();
    if name.is_ascii() {
        return plain(name);
    }
    let folded: String = name.nfkc().filter(|sign| !is_unseen(*sign)).collect();
    // Of some letters only the capital looks like a Latin one, of others only the small letter.
    let capitals: String = folded.chars().map(like_latin).collect();
    plain(&capitals).chars().map(like_latin).nfc().collect()
}

/// A sign that takes no place on the page, or turns the direction of those around it.
fn is_unseen(sign: char) -> bool {
    matches!(sign,
        '\u{ad}' | '\u{34f}' | '\u{61c}' | '\u{115f}' | '\u{1160}' | '\u{17b4}' | '\u{17b5}' | '\u{180b}'..='\u{180f}'
        | '\u{200b}'..='\u{200f}' | '\u{202a}'..='\u{202e}' | '\u{2060}'..='\u{206f}' | '\u{3164}' | '\u{fe00}'..='\u{fe0f}'
        | '\u{feff}' | '\u{ffa0}' | '\u{1bca0}'..='\u{1bca3}' | '\u{e0000}'..='\u{e0fff}')
        || (sign.is_control() && !sign.is_whitespace())
}

/// A sign that turns the direction in which those around it are read, or a control character.
pub(crate) fn turns(sign: char) -> bool {
    matches!(sign, '\u{202a}'..='\u{202e}' | '\u{2066}'..='\u{2069}') || (sign.is_control() && !sign.is_whitespace())
}

/// The Latin letter that a letter looks like, if it does.
fn like_latin(letter: char) -> char {
    if letter.is_ascii() || !letter.is_alphabetic() {
        return letter;
    }
    let mut prototype = skeleton(letter.encode_utf8(&mut [0; 4])).collect::<Vec<_>>().into_iter();
    match (prototype.next(), prototype.next()) {
        (Some(latin), None) if latin.is_ascii_alphabetic() => latin.to_ascii_lowercase(),
        _ => letter,
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    #[test]
    fn names_that_look_alike_are_the_same_and_others_are_not() {
        for (name, like) in [
            ("Thumb  LIFT ", "thumb lift"),
            ("Thu\u{200b}mb\u{2060} lift\u{feff}", "Thumb lift"),
            ("\u{422}humb lift", "Thumb lift"),
            ("Thumb l\u{456}ft", "Thumb lift"),
            ("\u{ff34}humb lift", "Thumb lift"),
            ("Na\u{ef}ve sign", "Nai\u{308}ve sign"),
            ("Lift\u{a0}sign", "lift sign"),
        ] {
            assert_eq!(name_key(name), name_key(like), "{name:?}");
        }
        for (name, other) in
            [("Naïve", "Naive"), ("Größe", "Grosse"), ("Lift 1", "Lift l"), ("Turn", "Tum"), ("Ж", "X")]
        {
            assert_ne!(name_key(name), name_key(other));
        }
        assert_eq!(name_key("Größe"), "größe", "what is typed as ever is compared as ever");
    }

    proptest! {
        #[test]
        fn a_key_is_its_own_key(name in "\\PC{0,40}") {
            let key = name_key(&name);
            prop_assert_eq!(name_key(&key), key);
        }
    }
}
