"""What a gateway knows: its routes, rules, filters and translations, ready to be asked."""
