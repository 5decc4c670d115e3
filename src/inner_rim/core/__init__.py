"""Pure computation on frozen structs: no interface, no files but its own tables, no clock."""
