"""What leaves the program and comes back: tables, cards, sheets, calendars."""
