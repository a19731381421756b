//! A scale with ticks at round values.

/// From zero to a round figure, in round steps.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) struct Scale {
    /// The figure at its top.
    pub top: f64,
    step: f64,
}

impl Scale {
    /// The least scale that holds a figure, with four to six steps of 1, 2 or 5 times a power of ten.
    pub(crate) fn up_to(highest: f64) -> Self {
        let wanted = if highest.is_finite() { highest.max(0.1) } else { 0.1 };
        let unit = 10_f64.powf(wanted.log10().floor() - 1.0);
        let step = [1.0, 2.0, 5.0, 10.0, 20.0, 50.0]
            .into_iter()
            .map(|times| times * unit)
            .find(|step| wanted / step <= 6.0 + 1e-9)
            .unwrap_or(wanted);
        Self { top: (wanted / step - 1e-9).ceil() * step, step }
    }

    /// Its ticks from zero up, each as it is written.
    pub(crate) fn ticks(self) -> impl Iterator<Item = (f64, String)> {
        let places = (-self.step.log10()).ceil().max(0.0) as usize;
        let count = (self.top / self.step).round() as u32;
        (0..=count).map(move |tick| {
            let value = f64::from(tick) * self.step;
            (value, format!("{value:.places$}"))
        })
    }
}

#[cfg(test)]
mod tests {
    use super::Scale;

    #[test]
    fn ticks_stand_at_round_values_and_hold_the_highest() {
        let said = |highest: f64| Scale::up_to(highest).ticks().map(|(_, text)| text).collect::<Vec<_>>().join(" ");
        assert_eq!(said(0.5), "0.0 0.1 0.2 0.3 0.4 0.5");
        assert_eq!(said(0.11), "0.00 0.02 0.04 0.06 0.08 0.10 0.12");
        assert_eq!(said(1.37), "0.0 0.5 1.0 1.5");
        assert_eq!(said(7.0), "0 2 4 6 8");
        assert_eq!(said(0.0), said(0.1));
        for tenths in 1..2000 {
            let highest = f64::from(tenths) / 10.0;
            let scale = Scale::up_to(highest);
            assert!(scale.top >= highest - 1e-9 && scale.top <= highest * 2.0, "{highest}: {}", scale.top);
            assert!((2..=7).contains(&scale.ticks().count()), "{highest}");
        }
    }
}
