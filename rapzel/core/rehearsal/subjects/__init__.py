"""Our own drawn subjects, with fine detail on the part that moves; `rehearsal.subject` lists them."""
