//! The standard codebook.

use oplex::codebook::Codebook;
use oplex::layout::Written;

#[test]
fn every_example_encodes_without_fault_and_decodes_to_itself() {
    let codebook = Codebook::standard();
    for option in codebook.definitions() {
        assert_eq!(oplex::layout::Layout::parse_with(&option.layout_text, codebook).err(), None, "{}", option.id());
        let Some(example) = &option.example else { continue };
        let payload = codebook.encode(option, &Written::from_text(example));
        let payload = payload.unwrap_or_else(|wrong| panic!("{}: {wrong:?}", option.label()));
        assert_eq!(payload.faults, [], "{}", option.label());
        let (value, faults) = codebook.decode(option, &payload.octets);
        assert_eq!(faults, [], "{}", option.label());
        let value = value.expect(example);
        let again = codebook.encode(option, &Written::from_text(&value.to_string()));
        assert_eq!(again.expect(example).octets, payload.octets, "{}: {value}", option.label());
    }
}
