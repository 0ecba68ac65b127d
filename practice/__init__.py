"""The practice: accounts, patients, restorations, runs and records around the heart, in Django."""
