"""The words everyone uses: case, plan, figures, reasons, errors. Imports nothing of ours."""
