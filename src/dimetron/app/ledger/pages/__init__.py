"""The pages of the ledger, a module each."""
