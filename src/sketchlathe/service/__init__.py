"""One function per thing a person does: each opens a transaction, checks whose it is, and answers after the commit."""
