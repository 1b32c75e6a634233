"""A yarn spun again: what came along from the old one."""
