"""Questions asked of a plan: its lines of light, what to measure first, what a tip held otherwise costs, its shapes."""
