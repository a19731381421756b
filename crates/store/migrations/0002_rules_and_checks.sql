-- House rules of the firm; what else is known of an instrument (displays, voltages, its checks).
ALTER TABLE firm ADD COLUMN house_rules TEXT NOT NULL DEFAULT '{}' CHECK (json_valid(house_rules));
ALTER TABLE instruments ADD COLUMN more TEXT NOT NULL DEFAULT '{}' CHECK (json_valid(more));

-- Two house rules were yes-or-no and are choices now.
UPDATE jobs SET description = json_set(
    json_remove(description, '$.installation.house_rules.skip_r1_rn', '$.installation.house_rules.skip_neutral_earth'),
    '$.installation.house_rules.neutral_reading',
    iif(json_extract(description, '$.installation.house_rules.skip_r1_rn'), 'skip', 'note'),
    '$.installation.house_rules.neutral_earth',
    iif(json_extract(description, '$.installation.house_rules.skip_neutral_earth'), 'skip', 'note')
) WHERE json_type(description, '$.installation.house_rules.skip_r1_rn') IS NOT NULL;
