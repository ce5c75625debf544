"""Policy rules as sets of traffic: what a rule takes, shadows, or changes when it moves."""
