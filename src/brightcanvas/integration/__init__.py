"""The rules put into a copy of the user's page, and what that changes."""
