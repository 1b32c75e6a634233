-- Units are chosen for each quantity. What was chosen for all of them holds for each; who had the classes of the yarn
-- council without asking keeps them.
INSERT INTO setting (name, value, mark)
SELECT each.name, each.inches, mark_of(each.name, each.inches)
FROM (
    SELECT 'length' AS name, 'inches' AS inches UNION ALL SELECT 'mass', 'oz' UNION ALL SELECT 'size', 'yd/lb'
    UNION ALL SELECT 'twist', 'tpi' UNION ALL SELECT 'needle', 'US'
) AS each
WHERE EXISTS (SELECT 1 FROM setting WHERE name = 'units' AND value = 'imperial');

INSERT INTO setting (name, value, mark)
SELECT 'weight_table', 'council', mark_of('weight_table', 'council')
WHERE EXISTS (SELECT 1 FROM design) AND NOT EXISTS (SELECT 1 FROM setting WHERE name = 'weight_table');

DELETE FROM setting WHERE name = 'units';
