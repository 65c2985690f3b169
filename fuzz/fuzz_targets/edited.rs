//! What an editor's file has where: any text has an outline, whose pieces are in their order and in the text, and every place in it
//! is found again as editors count it.

#![no_main]

use libfuzzer_sys::fuzz_target;

#[path = "../../crates/oplex-cli/src/editor/lines.rs"]
#[allow(dead_code, reason = "the editor uses the rest")]
mod lines;
#[path = "../../crates/oplex-cli/src/editor/outline.rs"]
#[allow(dead_code, reason = "the editor uses the rest")]
mod outline;

fuzz_target!(|text: &str| {
    let outline = outline::Outline::of(text);
    for pair in outline.pieces.windows(2) {
        assert!(pair[0].span.start <= pair[1].span.start, "{pair:?}");
    }
    for piece in &outline.pieces {
        assert!(text.get(piece.span.clone()).is_some() && !piece.path.names().is_empty(), "{piece:?}");
    }
    let lines = lines::Lines::of(text);
    for (octet, _) in text.char_indices() {
        // Behind the first half of a line's end there is no place.
        let ends = text[..octet].ends_with(['\r']) && text[octet..].starts_with('\n');
        let _ = (outline.at(octet), outline.place(octet));
        assert!(ends || lines.octet(text, lines.position(text, octet)) == octet, "{octet}");
    }
});
