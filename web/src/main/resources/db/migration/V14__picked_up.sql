-- Where a catalogue has moved a return that lay in its inbox.
ALTER TABLE item ADD picked_up_path VARCHAR(2000);
