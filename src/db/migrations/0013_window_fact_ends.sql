-- Databases of one day's builds have these indexes already, and lack the old one.
DROP INDEX IF EXISTS `window_facts_by_kind`;--> statement-breakpoint
CREATE INDEX IF NOT EXISTS `window_facts_from` ON `window_facts` (`from_day`);--> statement-breakpoint
CREATE INDEX IF NOT EXISTS `window_facts_to` ON `window_facts` (`to_day`);
