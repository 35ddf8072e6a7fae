-- What is shown says more than a level: kinds, things one by one, what arrives, and until when.
UPDATE record SET value = json_set(value, '$.version', 2) WHERE key = 'screen';
UPDATE record
  SET value = json_set(value, '$.parts.shown', json_patch(
    json_object('kinds', json_array(), 'apart', json_array(), 'despite', json_array(), 'along', json('false')),
    json_extract(value, '$.parts.shown')))
  WHERE key = 'screen' AND json_extract(value, '$.parts.shown') IS NOT NULL;
-- json_patch takes null for "leave it out".
UPDATE record SET value = json_set(value, '$.parts.shown.until', json('null'))
  WHERE key = 'screen' AND json_extract(value, '$.parts.shown') IS NOT NULL;
