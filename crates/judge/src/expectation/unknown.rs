//! Why there is no band.

/// What would have to be known first.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum Unknown {
    /// The circuit does not determine it.
    #[error("the circuit does not determine this reading")]
    NotDetermined,
    /// Neither the length of the ring nor r1 is known.
    #[error("give the length of the ring, or read r1 first")]
    LengthOrR1,
    /// The size of a conductor is in no table.
    #[error("the conductor size is in no table")]
    SizeNotInTable,
    /// It is read at a point.
    #[error("not read at the board")]
    NotAtBoard,
    /// The circuit has no such point.
    #[error("no such point")]
    NoSuchPoint,
    /// The circuit has no points.
    #[error("it has no points")]
    NoPoints,
    /// Neither the ends nor the length of the ring are known.
    #[error("read r1, rn and r2 first, or give the length of the ring")]
    EndsOrLength,
    /// Neither the length nor the legs are known.
    #[error("give the length of the circuit, or its legs")]
    Length,
    /// The loop above is not known.
    #[error("read Ze (or the Zs of the circuit that feeds this board) first")]
    ZeFirst,
    /// R1+R2 is not known.
    #[error("read R1+R2 first")]
    R1R2First,
    /// The loop line–neutral above is not known.
    #[error("read the fault current line–neutral first")]
    CurrentFirst,
    /// R1+Rn is not known.
    #[error("read R1+Rn first")]
    R1RnFirst,
    /// The bond is not described.
    #[error("give the bond's size and length")]
    BondSize,
    /// The size of the bond is in no table.
    #[error("the size is in no table")]
    BondSizeNotInTable,
    /// The supply alone decides it.
    #[error("the supply decides this reading")]
    Supply,
    /// Nothing says what it should be.
    #[error("nothing says what it should be")]
    Nothing,
}
