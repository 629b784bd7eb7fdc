"""One module per open format. Each turns a Handover into bytes; reading comes back with notes."""
