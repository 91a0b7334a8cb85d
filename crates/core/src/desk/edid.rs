//! What a monitor says of itself.

/// Maker, model and number of a monitor, from the first block of its EDID (VESA E-EDID 1.4, section 3); nothing when it is
/// none. The maker is its three letters; model and number are those written out, else the ones in figures.
pub fn edid(bytes: &[u8]) -> Option<String> {
    const HEADER: [u8; 8] = [0, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0];
    let block = bytes.get(..128).filter(|block| block.starts_with(&HEADER))?;
    let packed = u16::from_be_bytes([block[8], block[9]]);
    let letter = |shift: u16| char::from_u32(u32::from(packed >> shift & 31) + 64).filter(char::is_ascii_uppercase);
    let maker: String = [10, 5, 0].into_iter().filter_map(letter).collect();
    // Four descriptors of 18 bytes; those that describe no timing begin with zeros and a tag.
    let said = |tag: u8| {
        let own = block[54..126].chunks_exact(18).find(|one| one[..3] == [0, 0, 0] && one[3] == tag)?;
        let text: String = own[5..].iter().take_while(|byte| **byte != b'\n').map(|byte| char::from(*byte)).collect();
        Some(text.trim().chars().filter(|c| c.is_ascii_graphic() || *c == ' ').collect::<String>())
            .filter(|text| !text.is_empty())
    };
    let model = said(0xfc).unwrap_or_else(|| u16::from_le_bytes([block[10], block[11]]).to_string());
    let number = u32::from_le_bytes([block[12], block[13], block[14], block[15]]);
    let number = said(0xff).or_else(|| (number != 0).then(|| number.to_string()));
    let words: Vec<String> = [Some(maker), Some(model), number].into_iter().flatten().filter(|word| !word.is_empty()).collect();
    Some(words.join(" "))
}
