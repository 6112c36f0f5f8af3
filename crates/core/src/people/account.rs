//! What somebody enters to get an account.

use zxcvbn::{Score, zxcvbn};

use crate::field::Checker;
use crate::{FieldError, FieldErrorCode};

/// Shortest password. Length and rare words protect; rules about signs and digits only lead to notes on the screen.
pub const MIN_PASSWORD: usize = 12;
/// Longest, so that hashing cannot be made to work for minutes.
const MAX_PASSWORD: usize = 200;

/// An account as a person asks for it.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct AccountInput {
    /// What is typed to sign in.
    pub login: String,
    /// How the person is called beside what they wrote.
    pub name: String,
    /// The password in plain text; it is hashed at once and never stored.
    pub password: String,
}

/// A checked request for an account.
#[derive(Debug, Clone, PartialEq)]
pub struct NewAccount {
    /// Lower case.
    pub login: String,
    /// Name shown.
    pub name: String,
    /// To be hashed.
    pub password: Password,
}

/// How somebody wants to be called and reached.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct ProfileInput {
    /// What is typed to sign in.
    pub login: String,
    /// How the person is called beside what they wrote.
    pub name: String,
    /// Where mail reaches them; may be empty.
    pub mail: String,
}

/// That, checked.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Profile {
    /// Lower case.
    pub login: String,
    /// Name shown.
    pub name: String,
    /// Empty where nobody is to be reached.
    pub mail: String,
}

impl Profile {
    /// Checks it by itself; whether login and name are free only the store knows.
    ///
    /// # Errors
    /// Every fault found.
    pub fn check(input: &ProfileInput) -> Result<Self, Vec<FieldError>> {
        let mut checker = Checker::default();
        let login = checked_login(&mut checker, &input.login);
        let name = checked_name(&mut checker, &input.name);
        let mail = check_mail("mail", &input.mail).map_err(|error| checker.push(error)).unwrap_or_default();
        checker.finish(Some(Self { login, name, mail }))
    }
}

/// A mail address, or nothing, without the spaces around it.
///
/// # Errors
/// Anything that is no address: no sign before the `@`, no dot after it, spaces, more than 200 characters.
pub fn check_mail(field: &str, text: &str) -> Result<String, FieldError> {
    let mail = text.trim();
    let plausible = mail.split_once('@').is_some_and(|(who, place)| !who.is_empty() && place.contains('.'));
    let odd = |c: char| c.is_whitespace() || c.is_control();
    if mail.is_empty() || (plausible && !mail.contains(odd) && mail.chars().count() <= 200) {
        return Ok(mail.to_owned());
    }
    let (message, remedy) = ("This is no mail address.", "Write it as name@example.org, or leave it empty.");
    Err(FieldError::new(field, FieldErrorCode::Invalid, mail.replace('\0', "␀"), message, remedy))
}

fn checked_login(checker: &mut Checker, given: &str) -> String {
    let login = login_key(given);
    let allowed = |c: char| c.is_ascii_lowercase() || c.is_ascii_digit() || matches!(c, '.' | '-' | '_');
    if !(3..=40).contains(&login.chars().count()) || !login.chars().all(allowed) {
        checker.push(FieldError::new(
            "login",
            if login.is_empty() { FieldErrorCode::Missing } else { FieldErrorCode::Invalid },
            &login,
            "A sign-in name has 3 to 40 letters a-z, digits, dots, hyphens or underscores.",
            "Choose another one, such as your initials and surname.",
        ));
    }
    login
}

fn checked_name(checker: &mut Checker, given: &str) -> String {
    let name = checker.required("name", given, 80, "Enter the name that others will see.");
    checker.seen("name", &name);
    name
}

/// A password that is long enough and not easily guessed. It shows itself nowhere.
#[derive(Clone, PartialEq, Eq)]
pub struct Password(String);

impl std::fmt::Debug for Password {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str("Password(…)")
    }
}

/// The form in which logins are compared and stored.
#[must_use]
pub fn login_key(login: &str) -> String {
    login.trim().to_lowercase()
}

/// Guesses beyond these signs are not estimated: the estimate's time grows with the square of the length.
const ESTIMATED: usize = 72;

/// Why a password would be among the first that are tried. The estimate is that of Wheeler (2016, USENIX Security), which counts the guesses
/// of somebody who knows common words, names, dates, rows of keys and repetitions; fewer than 10^8 are too few.
fn easily_guessed(text: &str, login: &str) -> Option<String> {
    let start: String = text.trim().chars().take(ESTIMATED).collect();
    let estimate = zxcvbn(&start, &[login, "pruvex"]);
    (estimate.score() < Score::Three).then(|| "This password would be among the first that somebody tries.".to_owned())
}

impl NewAccount {
    /// Checks a request by itself; whether the login is taken only the store knows.
    ///
    /// # Errors
    /// Every fault found. No fault repeats the password.
    pub fn check(input: &AccountInput) -> Result<Self, Vec<FieldError>> {
        let mut checker = Checker::default();
        let login = checked_login(&mut checker, &input.login);
        let name = checked_name(&mut checker, &input.name);
        let password = Password::check(&input.password, &login).map_err(|error| checker.push(error)).ok();
        checker.finish(password.map(|password| Self { login, name, password }))
    }
}

impl Password {
    /// Checks a password that somebody chooses.
    ///
    /// # Errors
    /// Too short, too long, easily guessed, or the login itself; the error does not repeat it.
    pub fn check(text: &str, login: &str) -> Result<Self, FieldError> {
        let length = text.chars().count();
        let (message, remedy) = if length < MIN_PASSWORD {
            (format!("This password has {length} characters; at least {MIN_PASSWORD} are needed."), "Join a few words.")
        } else if length > MAX_PASSWORD {
            (format!("This password has {length} characters; at most {MAX_PASSWORD} fit."), "Choose a shorter one.")
        } else if !login.is_empty() && text.to_lowercase().contains(login) {
            ("This password contains the sign-in name.".to_owned(), "Choose one that nobody can guess from it.")
        } else if let Some(why) = easily_guessed(text, login) {
            (why, "Join a few words that do not belong together.")
        } else {
            return Ok(Self(text.to_owned()));
        };
        let code = if length == 0 { FieldErrorCode::Missing } else { FieldErrorCode::Invalid };
        Err(FieldError::new("password", code, "", message, remedy))
    }

    /// The text, to be hashed.
    #[must_use]
    pub fn reveal(&self) -> &str {
        &self.0
    }
}
