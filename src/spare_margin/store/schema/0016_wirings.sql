-- A wiring is one JSON document of its revision: nobody asks the database for a part of one, and a
-- revision never changes. A part's fields stand by the names they have in the program; what is as it is
-- without a word may be left out. `exact` writes a number so that it reads back as the very same.

ALTER TABLE revision ADD COLUMN wiring TEXT NOT NULL DEFAULT '{}';

UPDATE revision SET wiring = json_object(
    'kind', kind, 'nominal_v', json(exact(nominal_v)), 'polarity', polarity, 'reference', reference,
    'points', json((
        SELECT json_group_array(json_object('id', id, 'name', name, 'access', access)) FROM (
            SELECT * FROM point p WHERE p.job_id = revision.job_id AND p.revision_id = revision.id
            ORDER BY place
        )
    )),
    'sources', json((
        SELECT json_group_array(json_object(
            'id', id, 'name', name, 'live', live, 'back', back,
            'open_circuit_v', json(exact(open_circuit_v)), 'internal_ohm', json(exact(internal_ohm)),
            'battery', battery, 'capacity_ah', json(exact(capacity_ah))
        )) FROM (
            SELECT * FROM source s WHERE s.job_id = revision.job_id AND s.revision_id = revision.id
            ORDER BY place
        )
    )),
    'pieces', json((
        SELECT json_group_array(json(CASE kind WHEN 'conductor' THEN json_object(
            'id', id, 'kind', kind, 'name', name, 'start', start, 'end', "end", 'side', side,
            'resistance_ohm', json(exact(resistance_ohm)), 'open', json(iif(open, 'true', 'false')),
            'repair', repair, 'pinned_v', json(exact(pinned_v)), 'length_m', json(exact(length_m)),
            'size', json(iif(size_value IS NULL, 'null', json_object(
                'system', size_system, 'value', size_value, 'finish', size_finish))),
            'ohm_per_m', json(exact(ohm_per_m)), 'insulation_c', json(exact(insulation_c)),
            'temperature_c', json(exact(temperature_c)),
            'engine_space', json(iif(engine_space, 'true', 'false')), 'bundle', bundle,
            'unsupported', json(iif(unsupported, 'true', 'false')), 'cable', cable
        ) ELSE json_object(
            'id', id, 'kind', kind, 'name', name, 'start', start, 'end', "end", 'side', side,
            'resistance_ohm', json(exact(resistance_ohm)), 'open', json(iif(open, 'true', 'false')),
            'repair', repair, 'pinned_v', json(exact(pinned_v)), 'style', style,
            'rating_a', json(exact(rating_a))
        ) END)) FROM (
            SELECT * FROM piece p WHERE p.job_id = revision.job_id AND p.revision_id = revision.id
            ORDER BY place
        )
    )),
    'loads', json((
        SELECT json_group_array(json_object(
            'id', id, 'name', name, 'start', start, 'end', "end", 'behaviour', nullif(behaviour, ''),
            'current_a', json(exact(current_a)), 'load_ohm', json(exact(load_ohm)),
            'power_w', json(exact(power_w)), 'rated_v', json(exact(rated_v)),
            'start_multiple', json(exact(start_multiple)), 'least_v', json(exact(least_v)),
            'duty', duty, 'critical', json(iif(critical, 'true', 'false'))
        )) FROM (
            SELECT * FROM load l WHERE l.job_id = revision.job_id AND l.revision_id = revision.id
            ORDER BY place
        )
    )),
    'scenarios', json((
        SELECT json_group_array(json_object(
            'id', id, 'name', name, 'on', json("on"), 'starting', json(starting),
            'ambient_c', json(exact(ambient_c)), 'temperature_model', temperature_model,
            'engine_c', json(exact(engine_c)), 'contacts', json(contacts),
            'sources', json((
                SELECT json_group_object(key, json_object(
                    'open_circuit_v', json(exact(value ->> '$[0]')),
                    'internal_ohm', json(exact(value ->> '$[1]'))))
                FROM json_each(sources)
            ))
        )) FROM (
            SELECT * FROM scenario s WHERE s.job_id = revision.job_id AND s.revision_id = revision.id
            ORDER BY place
        )
    ))
);

ALTER TABLE revision DROP COLUMN kind;
ALTER TABLE revision DROP COLUMN nominal_v;
ALTER TABLE revision DROP COLUMN polarity;
ALTER TABLE revision DROP COLUMN reference;
DROP TABLE point;
DROP TABLE source;
DROP TABLE piece;
DROP TABLE load;
DROP TABLE scenario;
