-- What was typed is now the tree of a draft. Entries of before are let go: the design itself holds all they meant.
UPDATE design SET typed = '{}';
