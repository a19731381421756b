//! How it was tested, in sentences for the person who receives the certificate: what the job has, and no more.

use super::Form;
use crate::calc::fault_current::FaultSchool;
use crate::house_rules::{
    ArmourAndTray, BondingBy, ContinuityMethod, HouseRules, LeadCompensation, PolarityBy, ZsLimit, ZsMethod,
};
use crate::installation::{CableFamily, Circuit, Lines};
use crate::job::Job;
use crate::standard::edition::RcdSchool;

/// The sentences of a form.
pub fn how_it_was_tested(job: &Job, form: Form) -> Vec<&'static str> {
    let mut said = dead(&job.installation.house_rules, form);
    said.extend(live(job, form));
    said
}

/// Of the dead tests.
fn dead(rules: &HouseRules, form: Form) -> Vec<&'static str> {
    let mut said = vec![match rules.continuity {
        ContinuityMethod::R1R2 => {
            "The protective conductor of each circuit was measured together with its line (R1+R2)."
        }
        ContinuityMethod::R2 => {
            "The protective conductor of each circuit was measured by itself with a long lead (R2)."
        }
    }];
    said.push(match rules.polarity_by {
        PolarityBy::BothPairs => {
            "Polarity was proved by measurement at each point, line to neutral and line to protective conductor."
        }
        PolarityBy::R1R2Alone => "Polarity was proved by measurement at each point, line to protective conductor.",
        PolarityBy::Eye => "Polarity was checked by eye at each terminal.",
    });
    said.push(match rules.leads {
        LeadCompensation::Hold | LeadCompensation::EveryTest => {
            "The resistance of the test leads is not in the figures: they were nulled."
        }
        LeadCompensation::Subtract => {
            "The resistance of the test leads is not in the figures: it was measured and subtracted."
        }
    });
    if form == Form::Installation {
        said.push(match rules.bonding {
            BondingBy::Measured => "Earthing and bonding conductors were measured with one end disconnected.",
            BondingBy::Seen => "Earthing and bonding conductors were inspected throughout their length.",
        });
    }
    said
}

/// Of the tests at power, and of what stands beside the conductors.
fn live(job: &Job, form: Form) -> Vec<&'static str> {
    let installation = &job.installation;
    let rules = &installation.house_rules;
    let of_form = |circuit: &&Circuit| form.covers(circuit.id) && !installation.leaves(circuit);
    let any = |wanted: &dyn Fn(&Circuit) -> bool| installation.circuits.iter().filter(of_form).any(wanted);
    let mut said = vec![match rules.zs_method {
        ZsMethod::Measured => "Earth fault loop impedance (Zs) was measured.",
        ZsMethod::Summed => "Earth fault loop impedance (Zs) was calculated as Ze + (R1+R2).",
    }];
    said.push(match rules.zs_limit {
        ZsLimit::EightyPercent => {
            "It was compared with 80 % of the maximum of the standard, since the conductors were cold."
        }
        ZsLimit::Temperature => {
            "It was compared with the maximum of the standard, with the conductors corrected to working temperature."
        }
    });
    if installation.supply.lines == Lines::Three {
        said.push(match rules.fault_school {
            FaultSchool::Double => "Three-phase prospective fault current is twice the measured line–neutral value.",
            FaultSchool::Root3 => "Three-phase prospective fault current is √3 times the measured line–neutral value.",
            FaultSchool::LineLine => "Three-phase prospective fault current was measured between lines.",
        });
    }
    if any(&|circuit| circuit.rcd.is_some()) {
        said.push(match installation.rcd_school() {
            RcdSchool::Single => "Residual current devices were timed by one test at their rated residual current.",
            RcdSchool::Series => {
                "Residual current devices were timed at ½, 1 and 5 times their rated residual current."
            }
        });
    }
    if any(&|circuit| circuit.cable.kind.family() == CableFamily::Armoured) {
        said.push(match rules.armour {
            ArmourAndTray::Connected => {
                "Armour is connected to the protective conductors unless the schedule says otherwise."
            }
            ArmourAndTray::Apart => "Armour is earthed at one end unless the schedule says otherwise.",
        });
    }
    said
}
