-- The occasions that most people know, begun by hand until the person gives them hours. Each can be changed and taken off the list.
INSERT INTO record (key, value)
  SELECT 'occasion:' || id, json_object('title', title, 'level', level, 'kinds', json_array(), 'timetable', json('null'))
  FROM (
    SELECT 'presenting' AS id, 'presenting' AS title, 'bare' AS level
    UNION ALL SELECT 'sharing', 'sharing the screen', 'bare'
    UNION ALL SELECT 'evening', 'evening', 'what stays')
  WHERE NOT EXISTS (SELECT 1 FROM record WHERE key >= 'occasion:' AND key < 'occasion;'
    AND lower(json_extract(value, '$.title')) = title);
UPDATE record SET value = json_set(value, '$.unnamed', json('true')) WHERE key = 'occasion:sharing';
