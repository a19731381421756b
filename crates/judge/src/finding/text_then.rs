//! Judgements of the first files are bound to what was found in words; later ones bind to the variant with its numbers.
//! Here stand the words and names of then where they are not those of now.

use super::Found;

/// How steps were called then that are called otherwise now.
const CALLED_THEN: &[(&str, &str)] = &[
    ("PFC L–N", "Fault current line–neutral"),
    ("PFC L–E", "Fault current line–earth"),
    ("PFC here, L–N", "Fault current here, line–neutral"),
    ("PFC here, L–E", "Fault current here, line–earth"),
    ("PFC L", "Fault current L"),
    ("Loop impedance L–N", "Its loop, line–neutral"),
    ("Loop impedance L–E", "Its loop, line–earth"),
    ("Functional: switch each light on and off", "Functional: plug something in"),
    ("Functional: switch the equipment on and off", "Functional: plug something in"),
    ("Functional: switch the board on and off", "Functional: plug something in"),
];

fn label_then(label: &str) -> String {
    let begins = CALLED_THEN.iter().find_map(|(now, then)| Some((label.strip_prefix(now)?, then)));
    begins.map_or_else(|| label.to_owned(), |(rest, then)| format!("{then}{rest}"))
}

impl Found {
    /// With its step called as it was then: what a judgement binds to does not change with a name.
    fn called_then(&self) -> Self {
        let mut then = self.clone();
        match &mut then {
            Self::Reading(reading) => reading.label = label_then(&reading.label),
            Self::NotTested { label, .. } | Self::NotTaken { label, .. } => *label = label_then(label),
            Self::NotRead { labels, .. } => labels.iter_mut().for_each(|label| *label = label_then(label)),
            _ => {}
        }
        then
    }

    /// What a judgement binds to: the variant with its numbers, as JSON. With other numbers it is another finding.
    pub fn bound(&self) -> String {
        serde_json::to_string(&self.called_then()).unwrap_or_else(|_| self.text_then())
    }

    /// What a judgement of the first files is bound to. Only what may be judged can have been.
    pub fn text_then(&self) -> String {
        match self.called_then() {
            Self::CapacityUnknown => "the breaking capacity of its device is not given".to_owned(),
            Self::LeadsUnsaid { readings } => {
                format!("{readings} low-resistance readings with leads neither nulled nor subtracted")
            }
            then => then.text(),
        }
    }
}
