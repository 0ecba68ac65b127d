"""What is packed under a nib, whoever asks: zones of a cavity in their order, nibs that pass, force and thrusts."""
