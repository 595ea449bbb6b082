"""The simulated player: bowed-string sound with exact known truth."""
