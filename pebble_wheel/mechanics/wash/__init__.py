"""What water does to a strand: bloom, drawing up and swelling."""
