-- What the screen is like is one state by parts; what is shown is the first of them.
UPDATE record SET key = 'screen', value = json_object('version', 1, 'parts', json_object('shown', json(value))) WHERE key = 'shown';
