//! House rules as fields of a form, of a firm or of a job.

use super::Fields;
use proof_standard::house_rules::{HouseRules, RULES};

/// Takes the choices that the form holds; one it does not hold stays as it was.
pub(crate) fn house_rules(f: &mut Fields, rules: &mut HouseRules) {
    for rule in RULES {
        let key = f.get(rule.key).to_owned();
        if !key.is_empty() && !(rule.choose)(rules, &key) {
            f.wrong(rule.key, format!("“{key}” is none of the ways of this rule."));
        }
    }
}

/// The house rules as fields of a form.
pub(crate) fn rule_fields(f: &Fields) -> Vec<(&'static str, String)> {
    RULES.iter().map(|rule| (rule.key, f.choice(rule.key, rule.question, rule.why, &(rule.ways)()))).collect()
}
