//! What the walk allocates: nothing.

use std::ops::Range;

use oplex::codebook::Codebook;
use oplex::layout::{Fault, Form, Scalar, Visitor, Written};

/// Looks at everything, keeps nothing.
#[derive(Default)]
struct Count {
    scalars: usize,
    faults: usize,
}

impl<'l, 'o> Visitor<'l, 'o> for Count {
    fn scalar(&mut self, _: Form<'l>, _: Scalar<'o>, _: Range<usize>) {
        self.scalars += 1;
    }

    fn fault(&mut self, _: Fault) {
        self.faults += 1;
    }
}

#[test]
fn validating_a_payload_of_any_option_allocates_nothing() {
    let codebook = Codebook::standard();
    for option in codebook.definitions() {
        let Some(example) = &option.example else { continue };
        let octets = codebook.encode(option, &Written::from_text(example)).unwrap().octets;
        let layout = codebook.layout(option);
        // Layouts of nested options are parsed when they are first met, and kept.
        layout.walk(codebook, &octets, &mut Count::default());
        let mut count = Count::default();
        let allocated = allocation_counter::measure(|| layout.walk(codebook, &octets, &mut count));
        assert_eq!((allocated.count_total, count.faults), (0, 0), "{}", option.label());
        assert!(count.scalars > 0, "{}", option.label());
    }
}

#[test]
fn building_a_value_allocates_in_proportion_to_it() {
    let codebook = Codebook::standard();
    let servers = codebook.find("v4:dns").unwrap();
    let octets = vec![10; 4000];
    let allocated = allocation_counter::measure(|| {
        let decoded = codebook.decode(servers, &octets);
        assert!(decoded.1.is_empty());
    });
    assert!(allocated.bytes_max < 400 * octets.len() as u64, "{allocated:?}");
}
