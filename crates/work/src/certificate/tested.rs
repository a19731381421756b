//! How it was tested, in sentences for the person who receives the certificate: what the job has, and no more.

use super::Form;
use crate::plan::polarity::{Polarity, polarity};
use crate::plan::sequence::by_long_lead;
use proof_job::installation::{CableFamily, Circuit, Lines};
use proof_job::job::Job;
use proof_standard::calc::fault_current::FaultCurrentMethod;
use proof_standard::house_rules::{ArmourAndTray, BondingBy, HouseRules, LeadCompensation, ZsLimit, ZsMethod};
use proof_standard::limits::edition::RcdSchool;

/// The sentences of a form.
pub fn how_it_was_tested(job: &Job, form: Form) -> Vec<String> {
    let dead = continuity(job, form).into_iter().chain(dead(&job.installation.house_rules, form));
    let dead = dead.map(str::to_owned).chain(polarity_proved(job, form));
    dead.chain(live(job, form).into_iter().map(str::to_owned)).collect()
}

/// The circuits that a form covers and the work touches.
fn covered(job: &Job, form: Form) -> impl Iterator<Item = &Circuit> {
    let installation = &job.installation;
    installation.circuits.iter().filter(move |circuit| form.covers(circuit.id) && !installation.out_of_scope(circuit))
}

/// How the protective conductors were measured: by long lead is by circuit, since a ring never is.
fn continuity(job: &Job, form: Form) -> Option<&'static str> {
    let long: Vec<bool> = covered(job, form).map(|circuit| by_long_lead(&job.installation, circuit)).collect();
    Some(match (long.contains(&false), long.contains(&true)) {
        (true, false) => "The protective conductor of each circuit was measured together with its line (R1+R2).",
        (false, true) => "The protective conductor of each circuit was measured by itself with a long lead (R2).",
        (true, true) => {
            "The protective conductor of each circuit was measured together with its line (R1+R2), or by itself with a \
             long lead (R2): the schedule says which."
        }
        (false, false) => return None,
    })
}

/// How the polarity of the circuits was proved, as it was: a rule alone has proved nothing.
fn polarity_proved(job: &Job, form: Form) -> Option<String> {
    let installation = &job.installation;
    let settled = job.settled();
    let mut ways: Vec<&'static str> = Vec::new();
    for circuit in covered(job, form) {
        if let Polarity::Earned(how) = *polarity(installation, circuit, &settled)
            && !ways.contains(&how)
        {
            ways.push(how);
        }
    }
    let (last, others) = ways.split_last()?;
    let by = if others.is_empty() { (*last).to_owned() } else { format!("{}; or {last}", others.join("; ")) };
    Some(format!("Polarity was proved: {by}."))
}

/// Of the dead tests.
fn dead(rules: &HouseRules, form: Form) -> Vec<&'static str> {
    let mut said = vec![match rules.leads {
        LeadCompensation::Hold | LeadCompensation::EveryTest => {
            "The resistance of the test leads is not in the figures: they were nulled."
        }
        LeadCompensation::Subtract => {
            "The resistance of the test leads is not in the figures: it was measured and subtracted."
        }
    }];
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
    let any = |wanted: &dyn Fn(&Circuit) -> bool| covered(job, form).any(wanted);
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
            FaultCurrentMethod::Double => {
                "Three-phase prospective fault current is twice the measured line–neutral value."
            }
            FaultCurrentMethod::Root3 => {
                "Three-phase prospective fault current is √3 times the measured line–neutral value."
            }
            FaultCurrentMethod::LineLine => "Three-phase prospective fault current was measured between lines.",
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
