"""Photos of yarn: taken or chosen, measured by hand or by looking, noted as samples."""
