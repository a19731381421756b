//! The physics of a dead circuit: what an ohmmeter reads between any two terminals.
//!
//! [`solver`] finds resistances in any network of resistors; [`circuit`] turns a described
//! ring or radial, with its faults, into such a network and reads it point by point.

pub mod circuit;
pub mod description;
pub mod solver;
