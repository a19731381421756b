//! What may be suspected of a circuit, one thing at a time.

use proof_standard::conductor::Core;

/// One thing suspected. Nodes: 0 is the board, 1 the first main-line point; segment k runs from
/// node k to node k + 1. Sizes stand apart, in the order of the parts.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub(super) enum FaultComponent {
    /// A point hangs on so many metres that nobody drew.
    Spur {
        /// Index of the point.
        point: usize,
    },
    /// Two neighbours hang on one such spur, one behind the other.
    SpurOfTwo {
        /// Index of the nearer point; the next in the list hangs behind it.
        point: usize,
    },
    /// Extra resistance in a core of a segment.
    Joint {
        /// Which core.
        core: Core,
        /// Which segment.
        segment: usize,
    },
    /// A broken core.
    Open {
        /// Which core.
        core: Core,
        /// Which segment.
        segment: usize,
    },
    /// The same in the cable of a known spur.
    SpurJoint {
        /// Which core.
        core: Core,
        /// The point that the cable leads into.
        point: usize,
        /// Broken, not only poor.
        open: bool,
    },
    /// Two cores change places in a segment.
    Cross {
        /// Which two.
        cores: [Core; 2],
        /// Which segment.
        segment: usize,
    },
    /// A contact at a point.
    Contact {
        /// Index of the point.
        point: usize,
    },
    /// The same behind both outlets of a twin: at its own terminals.
    BothOutlets {
        /// Index of its first outlet.
        point: usize,
    },
    /// A point's switch is off.
    SwitchOff {
        /// Index of the point.
        point: usize,
    },
    /// Two terminals of a point hold each other's conductors.
    Swap {
        /// Index of the point.
        point: usize,
        /// Which two.
        cores: [Core; 2],
    },
    /// An extra cable between two nodes.
    Bridge {
        /// The nearer node.
        from: usize,
        /// The farther node.
        to: usize,
    },
    /// Metal between the CPCs of two nodes.
    ParallelEarth {
        /// The nearer node, 0 for the board.
        from: usize,
        /// The farther node.
        to: usize,
    },
    /// The links join each leg with itself: in both steps, or in one of them alone.
    OwnLeg {
        /// The one step, 0 for line–neutral, 1 for line–CPC; none: both.
        step: Option<usize>,
    },
    /// The leads are in every figure.
    Leads,
    /// The length is not what was said.
    WrongLength,
    /// The CPC is of another size: the row in the copper table.
    WrongCpc {
        /// Row of the table of copper sizes.
        row: usize,
    },
}

impl FaultComponent {
    /// Number of sizes that it takes.
    pub(super) const fn sizes(self) -> usize {
        match self {
            Self::Spur { .. }
            | Self::Joint { .. }
            | Self::Contact { .. }
            | Self::BothOutlets { .. }
            | Self::ParallelEarth { .. }
            | Self::Leads
            | Self::SpurJoint { open: false, .. } => 1,
            Self::SpurOfTwo { .. } | Self::Bridge { .. } => 2,
            _ => 0,
        }
    }
}
