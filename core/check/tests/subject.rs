//! Whose next take a file is: numbers with and without zeros, letters before them, marks of takes, folders, shots.

use eddymist_check::{
    Manifest,
    subject::{Named, Subject, There, Whose, file_named, named, subject, whose},
};
use proptest::prelude::*;

fn manifest(of: &[(&str, &str)]) -> Manifest {
    of.iter().map(|(k, v)| (k.to_string(), v.to_string())).collect()
}

/// Whose take `file` is among files of which nothing but the name is known; the names stand for their drawings.
fn among(file: &str, there: &[&str]) -> Result<Vec<usize>, ()> {
    let nothing = Manifest::new();
    let subjects: Vec<Subject> = (0..there.len()).map(|k| Subject { key: k.to_string(), by_name: true }).collect();
    let all: Vec<There> = there.iter().zip(&subjects).map(|(file, subject)| There { subject, file, manifest: &nothing, awaited: false }).collect();
    let index = |s: Subject| s.key.parse::<usize>().expect("a number");
    match whose(file, &nothing, &all) {
        Whose::New => Ok(Vec::new()),
        Whose::Takes(s) => Ok(vec![index(s)]),
        Whose::Asked(_) => Err(()),
    }
}

#[test]
fn numbers_tell_drawings_and_what_disagrees_keeps_them_apart() {
    // "4", "004" and "A-0004" may be one drawing.
    assert_eq!(among("004.png", &["4.png", "5.png"]), Ok(vec![0]));
    assert_eq!(among("A-0004.png", &["4.png", "14.png"]), Ok(vec![0]));
    assert_eq!(among("4.tif", &["A-0004.png", "B-0005.png"]), Ok(vec![0]));
    // "A-0004" and "B-0004" are two, and "4" is asked of.
    assert_eq!(among("B-0004.png", &["A-0004.png"]), Ok(vec![]));
    assert_eq!(among("4.png", &["A-0004.png", "B-0004.png"]), Err(()));
    assert_eq!(among("a_0004.png", &["A-0004.png", "B-0004.png", "4.png"]), Ok(vec![0]));
    // A mark of the take is no number; a name without a number is the same name or another drawing.
    assert_eq!(among("A-0004_v2.png", &["A-0004.png", "A-0002.png"]), Ok(vec![0]));
    assert_eq!(among("Osk (take 3).png", &["Osk.png"]), Ok(vec![]));
    assert_eq!(among("OSK.PNG", &["osk.png", "ilse.png"]), Ok(vec![0]));
    assert_eq!(among("osk.png", &["ilse.png"]), Ok(vec![]));
    // Folders are part of a name, the archive is not.
    assert_eq!(among("again.zip/012/0004.png", &["first.zip/012/0004.png", "first.zip/013/0004.png"]), Ok(vec![0]));
    assert_eq!(among("0004.png", &["first.zip/012/0004.png", "first.zip/013/0004.png"]), Err(()));
}

#[test]
fn from_another_folder_it_is_asked_where_a_take_is_awaited() {
    let nothing = Manifest::new();
    let subject = Subject { key: "one".into(), by_name: true };
    let whose_of = |file: &str, awaited: bool| whose(file, &nothing, &[There { subject: &subject, file: "day.zip/A-0004.png", manifest: &nothing, awaited }]);
    assert_eq!(whose_of("again.zip/fixed/4.png", true), Whose::Asked(vec![subject.clone()]));
    assert_eq!(whose_of("again.zip/fixed/4.png", false), Whose::New);
    assert_eq!(whose_of("again.zip/fixed/B-4.png", true), Whose::New);
    assert_eq!(whose_of("again.zip/4.png", false), Whose::Takes(subject.clone()));
}

#[test]
fn shots_and_characters_tell_drawings_of_a_production() {
    let of = |shot, drawing| manifest(&[("shot", shot), ("drawing", drawing), ("character", "Osk")]);
    assert_eq!(subject("delivery.zip/a/x.png", &of("012", "A-0007")), subject("again.zip/y.tif", &of("012", "a_7")));
    assert_ne!(subject("y.tif", &of("013", "7")), subject("y.tif", &of("012", "7")));
    let (there, first) = (of("012", "0007"), subject("x.png", &of("012", "0007")));
    let all = [There { subject: &first, file: "x.png", manifest: &there, awaited: false }];
    assert_eq!(whose("y.png", &of("012", "7"), &all), Whose::Takes(first.clone()));
    assert_eq!(whose("x.png", &of("013", "7"), &all), Whose::New);
    // One that is known by its file alone is compared by files.
    assert_eq!(whose("x.png", &Manifest::new(), &all), Whose::Takes(first));
    // What has been both "4" and "A-4" is not "B-4".
    let (plain, a) = (of("1", "4"), of("1", "A-4"));
    let one = subject("4.png", &plain);
    let both =
        [There { subject: &one, file: "4.png", manifest: &plain, awaited: false }, There { subject: &one, file: "A-4.png", manifest: &a, awaited: false }];
    assert_eq!(whose("B-4.png", &of("1", "B-4"), &both), Whose::New);
    assert_eq!(whose("A-4.png", &of("1", "a 04"), &both), Whose::Takes(one));
}

proptest! {
    /// Zeros, case, what parts words, a mark of the take, an ending and an archive change nothing; another number or word does.
    #[test]
    fn a_name_is_its_words_and_its_number(word in "[a-z]{1,6}", n in 0u32..100_000, zeros in 0usize..5, sep in "[ _.-]", mark in "(|_v[1-9]|_t2| take 12)") {
        let plain = named(&format!("{word}-{n}"));
        prop_assert_eq!(&plain, &Named { number: Some(n.to_string()), rest: word.clone() });
        let other = format!("some.zip/{}{sep}{}{n}{mark}.png", word.to_uppercase(), "0".repeat(zeros));
        prop_assert_eq!(file_named(&other), plain.clone());
        prop_assert_ne!(named(&format!("{word}-{}", n + 1)), plain.clone());
        prop_assert_ne!(named(&format!("{word}q-{n}")), plain);
    }

    /// Any name is read, and a file is the next take of one of its own name whatever else is there.
    #[test]
    fn any_name_is_its_own_next_take(file in "\\PC{0,30}", others in prop::collection::vec("[ab]?-?[0-9]{0,3}", 0..6)) {
        let mut there: Vec<&str> = vec![&file];
        let apart: Vec<&String> = others.iter().filter(|o| file_named(o) != file_named(&file)).collect();
        there.extend(apart.iter().map(|o| o.as_str()));
        prop_assert_eq!(among(&file, &there), Ok(vec![0]));
    }
}
