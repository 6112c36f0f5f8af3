//! Roles and accounts.

use proptest::prelude::*;
use pruvex_core::FieldErrorCode;
use pruvex_core::catalogue::{Status, Step};
use pruvex_core::people::{AccountInput, NewAccount, Profile, ProfileInput, Right, Role, check_mail};

#[test]
fn rights_grow_with_roles_as_the_table_says() {
    let table = [
        (Role::Administrator, [true, true, true, true, false, true]),
        (Role::Author, [true, true, true, true, false, false]),
        (Role::SecondReader, [true, true, false, true, true, false]),
        (Role::Learner, [true, false, false, false, false, false]),
    ];
    let rights = [
        Right::Read,
        Right::ReadDrafts,
        Right::WriteSheets,
        Right::WriteStudies,
        Right::SignOff,
        Right::ManageAccounts,
    ];
    for (role, allowed) in table {
        for (right, expected) in rights.into_iter().zip(allowed) {
            assert_eq!(role.may(right), expected, "{role:?} {right:?}");
            assert_eq!(role.rights().contains(&right), expected);
        }
        assert_eq!(Role::from_code(role.code()), Some(role));
    }
    assert_eq!(Role::from_code("owner"), None);
}

#[test]
fn a_sheet_goes_its_way_and_nobody_publishes_alone() {
    let way = [
        (Status::Draft, Step::Submit, Some(Status::InReview)),
        (Status::InReview, Step::SignOff, Some(Status::Published)),
        (Status::InReview, Step::SendBack, Some(Status::Draft)),
        (Status::InReview, Step::Withdraw, Some(Status::Draft)),
        (Status::Published, Step::Retire, Some(Status::Retired)),
        (Status::Retired, Step::Revive, Some(Status::Draft)),
        (Status::Draft, Step::SignOff, None),
        (Status::Published, Step::Submit, Some(Status::InReview)),
        (Status::Retired, Step::Submit, None),
        (Status::Retired, Step::Retire, None),
    ];
    for (from, step, to) in way {
        assert_eq!(from.after(step), to, "{from:?} {step:?}");
    }
    for status in Status::ALL {
        assert_eq!((Status::from_code(status.code()), status.after_edit()), (Some(status), Status::Draft));
        assert!(status.steps(Role::Learner).is_empty());
        for role in Role::ALL {
            let steps = status.steps(role);
            assert!(!(steps.contains(&Step::SignOff) && role.may(Right::WriteSheets)), "{role:?} would publish alone");
        }
    }
    assert_eq!(Status::InReview.steps(Role::SecondReader), [Step::SignOff, Step::SendBack]);
}

#[test]
fn every_fault_of_an_account_is_named_and_no_password_repeated() {
    let faults = |login: &str, name: &str, password: &str| -> Vec<String> {
        let input = AccountInput { login: login.into(), name: name.into(), password: password.into() };
        let errors = NewAccount::check(&input).err().unwrap_or_default();
        assert!(!format!("{errors:?}").contains(password) || password.is_empty(), "{errors:?}");
        errors.into_iter().map(|error| error.field).collect()
    };
    assert!(faults("m.keller", "M. Keller", "four words in a row").is_empty());
    assert_eq!(faults("", "", ""), ["login", "name", "password"]);
    assert_eq!(faults("m keller", "M", "eleven char"), ["login", "password"]);
    assert_eq!(faults("keller", "M", "the KELLER password"), ["password"]);
    assert_eq!(faults("keller", "M", &"long".repeat(60)), ["password"]);
    for guessed in [
        "aaaaaaaaaaaa",
        "password1234",
        "            ",
        "qwertyuiop[]",
        "abcdefghijkl",
        "MyPassword123",
        "keller197019",
    ] {
        assert_eq!(faults("keller7", "M", guessed), ["password"], "{guessed}");
    }
    for good in ["five other words for it", "kiln-otter-vague", "Regen fällt schräg auf Ton", "x9#Lq2!vTr0z"] {
        assert!(faults("keller7", "M", good).is_empty(), "{good}");
    }
    assert_eq!(
        faults("keller7", "\u{202e}relleK .M", "four words in a row"),
        ["name"],
        "it would be read the other way round"
    );
    assert!(
        faults("keller7", "\u{645}\u{6cc}\u{200c}\u{62e}\u{648}\u{627}", "four words in a row").is_empty(),
        "Persian is written so"
    );
    let account = NewAccount::check(&AccountInput {
        login: " M.Keller ".into(),
        name: " M. Keller ".into(),
        password: "four words in a row".into(),
    })
    .unwrap();
    assert_eq!((account.login.as_str(), account.name.as_str()), ("m.keller", "M. Keller"));
    assert!(!format!("{account:?}").contains("four words"));
}

proptest! {
    #[test]
    fn any_account_is_accepted_or_refused(login in "\\PC{0,50}", name in "\\PC{0,90}", password in "\\PC{0,20}") {
        let input = AccountInput { login, name, password };
        if let Ok(account) = NewAccount::check(&input) {
            prop_assert!(account.login.is_ascii() && account.password.reveal().chars().count() >= 12);
        }
    }
}

/// A mail address is taken as it stands, or refused in words; what is taken is taken again.
#[test]
fn a_mail_address_is_one_or_nothing() {
    for (given, taken) in
        [("", ""), ("  ", ""), (" a@b.org ", "a@b.org"), ("Ä.b+c@sub.example.org", "Ä.b+c@sub.example.org")]
    {
        assert_eq!(check_mail("mail", given).as_deref(), Ok(taken), "{given:?}");
    }
    let long = format!("{}@example.org", "x".repeat(200));
    for given in ["a", "a@b", "@b.org", "a b@c.org", "a@b.org\nBcc: c@d.org", "a\0@b.org", long.as_str()] {
        let fault = check_mail("mail_to", given).unwrap_err();
        assert_eq!((fault.field.as_str(), fault.code), ("mail_to", FieldErrorCode::Invalid), "{given:?}");
        assert!(!fault.value.contains('\0'));
    }
}

/// Every fault of a profile is told at once, and the sign-in name is kept as accounts keep it.
#[test]
fn a_profile_is_checked_as_an_account_is() {
    let input = |login: &str, name: &str, mail: &str| ProfileInput {
        login: login.to_owned(),
        name: name.to_owned(),
        mail: mail.to_owned(),
    };
    let profile = Profile::check(&input(" M.Keller ", " Mara Keller ", "m@example.org")).unwrap();
    assert_eq!((profile.login.as_str(), profile.name.as_str()), ("m.keller", "Mara Keller"));
    let faults = Profile::check(&input("m k", "a\u{202e}b", "m")).unwrap_err();
    assert_eq!(faults.iter().map(|it| it.field.as_str()).collect::<Vec<_>>(), ["login", "name", "mail"]);
    let nothing = Profile::check(&ProfileInput::default()).unwrap_err();
    assert!(nothing.iter().all(|it| it.code == FieldErrorCode::Missing), "{nothing:?}");
}
