"""The ledger: landmarks and known lengths as a table."""
