"""What a check says: rules with stable codes, findings, and how they are reported."""
