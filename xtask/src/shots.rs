use crate::Failure;
/// Takes the pictures.
pub fn take() -> Result<(), Failure> {
    Ok(())
}
