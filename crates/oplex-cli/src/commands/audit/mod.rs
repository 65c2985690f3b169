//! `oplex audit`: what was captured, held against the RFCs and against a plan or release.

mod codes;
mod expectations;
pub(super) mod page;
pub(super) mod subject;

use std::io::{Read, Write};
use std::path::Path;
use std::sync::Arc;
use std::time::Duration;

use oplex::audit::{Audit, Conversation, Policy, Summary};
use oplex::check;
use oplex::compiled::Compiled;
use oplex::finding::{Severity, Sources};
use oplex::nearest::nearest;
use oplex::plan::Plan;
use oplex_io::capture::{Capture, Checked, Damage, Progress, WHILE, checked};

use crate::args::{self, Format};
use crate::exit::{DONE, ERRORS, Failure, Outcome, because};
use crate::forms::{self, AuditForm, ConversationForm, DamageForm, SeenForm};
use crate::render::progress;

use page::{Page, Spool};
use subject::{Subject, Wanted};

pub(super) fn run(args: &args::Audit, out: &mut dyn Write) -> Outcome {
    known(&args.only)?;
    let subject = Subject::of(args)?;
    let wanted = Wanted::of(args)?;
    let plan = subject.plan();
    let compiled = plan.map(Compiled::of);
    let policy = Policy::default();
    let audit = match &compiled {
        Some(compiled) => Audit::against(compiled, policy).answered_by(plan.map_or(&[], |plan| &plan.others)),
        None => Audit::new(&subject.codebook, policy),
    };
    let audit = match &args.network {
        Some(name) => audit.on(subject::network(compiled.as_ref(), name)?),
        None => audit,
    };
    if args.expectations.is_some() {
        expectations::may_be_written(args, compiled.is_some())?;
    }
    let codebook = compiled.as_ref().map_or(&subject.codebook, |compiled| &compiled.codebook);
    let names: Vec<String> = args.captures.iter().map(|path| path.display().to_string()).collect();
    let progress = Arc::new(Progress::default());
    let captures = args.captures.iter().map(|path| Ok(open(path, args.follow)?.telling(&progress)));
    let captures = captures.collect::<Result<Vec<_>, Failure>>()?;
    let mut run = Run {
        args,
        wanted: &wanted,
        names: &names,
        sources: subject.sources(),
        codebook,
        audit,
        plan,
        spool: Spool::new(args.all || args.follow)?,
        expected: expectations::Expectations::default(),
        damage: Vec::new(),
        failed: None,
        messages: 0,
        out,
    };
    progress::while_watched(|watch| {
        watch.reading(&progress, total(&args.captures));
        checked(captures, codebook, args.follow, &mut |item| run.take(item));
    });
    run.end(&progress, subject.name.as_deref())
}

/// Whether the rules that are named exist.
fn known(names: &[String]) -> Result<(), Failure> {
    let all = || check::catalogue().into_iter().map(|rule| rule.name);
    for name in names {
        if !all().any(|known| known == name) {
            let hint = nearest(name, all()).map_or(String::new(), |near| format!("; did you mean {near}?"));
            return because(format!("there is no rule {}{hint}", crate::render::clean::line(name)));
        }
    }
    Ok(())
}

/// How many octets the files have; 0 where that is not known.
fn total(paths: &[std::path::PathBuf]) -> u64 {
    let size = |path: &std::path::PathBuf| {
        let compressed = path.extension().is_some_and(|extension| extension == "gz");
        std::fs::metadata(path).ok().filter(|known| known.is_file() && !compressed).map(|known| known.len())
    };
    paths.iter().map(size).sum::<Option<u64>>().unwrap_or(0)
}

fn open(path: &Path, follow: bool) -> Result<Capture, Failure> {
    if path == Path::new("-") {
        return Ok(Capture::read(std::io::stdin(), Path::new("standard input"))?);
    }
    if !follow {
        return Ok(Capture::open(path)?);
    }
    let file = std::fs::File::open(path)
        .or_else(|error| because(format!("{}: {}", super::shown(path), oplex_io::files::reason(&error))))?;
    Ok(Capture::read(Growing(file), path)?)
}

/// A file that still grows: at its end there is more to come.
struct Growing(std::fs::File);

impl Read for Growing {
    fn read(&mut self, into: &mut [u8]) -> std::io::Result<usize> {
        loop {
            match self.0.read(into)? {
                0 => std::thread::sleep(Duration::from_millis(200)),
                read => return Ok(read),
            }
        }
    }
}

/// An audit that runs, and where its results go.
struct Run<'r, 'c> {
    args: &'r args::Audit,
    wanted: &'r Wanted,
    names: &'r [String],
    sources: &'r Sources,
    codebook: &'c oplex::codebook::Codebook,
    audit: Audit<'c>,
    plan: Option<&'c Plan>,
    spool: Spool,
    expected: expectations::Expectations,
    damage: Vec<(usize, Damage)>,
    /// Why output could not be written; reading goes on, as the verdict counts.
    failed: Option<Failure>,
    messages: u64,
    out: &'r mut dyn Write,
}

impl Run<'_, '_> {
    fn take(&mut self, item: Checked) {
        let result = match item {
            Checked::Message(message, found) => {
                self.messages += 1;
                let shown = self.show_message(&message, &found);
                self.audit.add(&message.seen, found);
                shown
            }
            Checked::Damage(file, damage) => {
                let shown = self.show_damage(file, &damage);
                if self.damage.len() < 100 {
                    self.damage.push((file, damage));
                }
                shown
            }
            Checked::Nothing => {
                // In a file that is there already time is what its frames say.
                if self.args.follow {
                    self.audit.pass(WHILE);
                }
                Ok(())
            }
        };
        let result = result.and_then(|()| self.closed());
        // Whoever follows a capture sees what there is at once.
        let result = result.and_then(|()| if self.args.follow { self.out.flush() } else { Ok(()) });
        if let (Err(error), None) = (result, &self.failed) {
            self.failed = Some(error.into());
        }
    }

    fn is_json(&self) -> bool {
        self.args.format.format == Format::Json
    }

    /// A line for a message that has something to say; with --all for each.
    fn show_message(
        &mut self,
        message: &oplex_io::capture::Message,
        found: &[oplex::finding::Finding],
    ) -> std::io::Result<()> {
        if !self.is_json() {
            return Ok(());
        }
        let found: Vec<_> = found.iter().filter(|finding| self.wanted.rule(finding.rule.name)).cloned().collect();
        if (found.is_empty() && !self.args.all) || !self.wanted.message(&message.seen) {
            return Ok(());
        }
        let form = SeenForm::of(message, self.names, self.codebook, &found);
        forms::document(self.out, "oplex-message/1", &form)
    }

    fn show_damage(&mut self, file: usize, damage: &Damage) -> std::io::Result<()> {
        if self.is_json() {
            return forms::document(self.out, "oplex-damage/1", &DamageForm::of(&self.names[file], damage));
        }
        Ok(())
    }

    /// Shows the conversations that have ended.
    fn closed(&mut self) -> std::io::Result<()> {
        for mut conversation in self.audit.closed() {
            if self.args.expectations.is_some() {
                self.expected.add(&conversation, self.codebook);
            }
            if !self.wanted.conversation(&conversation) {
                continue;
            }
            conversation.findings.retain(|reported| self.wanted.rule(reported.finding.rule.name));
            let says = conversation.findings.iter().any(|reported| reported.finding.severity > Severity::Note);
            let named = !self.args.only.is_empty() && !conversation.findings.is_empty();
            if !(says || named || self.args.all) {
                continue;
            }
            match self.is_json() {
                true => {
                    let form = ConversationForm::of(&conversation, self.names, self.sources);
                    forms::document(self.out, "oplex-conversation/1", &form)?;
                }
                false if self.args.follow => page::conversation(self.out, &conversation, self.sources)?,
                false => self.spool.add(|to| page::conversation(to, &conversation, self.sources))?,
            }
        }
        Ok(())
    }

    fn end(mut self, progress: &Progress, against: Option<&str>) -> Outcome {
        let mut summary: Summary = self.audit.finish();
        self.closed()?;
        if let Some(failed) = self.failed {
            return Err(failed);
        }
        summary.kinds.retain(|kind| self.wanted.rule(kind.rule.name));
        let mut unseen: Vec<String> = self.audit.unseen().map(page::reservation).collect();
        // Those of expectations are called by what is expected of them.
        let expected = self.plan.iter().flat_map(|plan| &plan.expectations);
        let expected = expected.filter(|one| one.client.own_mac().is_some_and(|mac| !self.audit.has_seen(mac)));
        unseen.extend(expected.filter_map(|one| one.title.as_ref().map(|title| format!("“{title}”"))));
        if let Some(path) = &self.args.expectations {
            self.expected.write(path)?;
        }
        let wrong = summary.count(Severity::Error) > 0 || !self.damage.is_empty();
        let frames = progress.frames.load(std::sync::atomic::Ordering::Relaxed);
        if self.is_json() {
            let form = AuditForm::of(&summary, self.names, (frames, self.messages), against, &unseen);
            forms::document(self.out, "oplex-audit/1", &form)?;
        } else if self.args.codes {
            codes::draw(self.out, &summary, self.codebook)?;
        } else {
            let page = Page {
                summary: &summary,
                names: self.names,
                frames,
                messages: self.messages,
                against,
                unseen: &unseen,
                damage: &self.damage,
            };
            page.draw(self.out)?;
            self.spool.end(self.out)?;
        }
        Ok(if wrong { ERRORS } else { DONE })
    }
}

/// Whether a conversation is this client's.
fn is_of(conversation: &Conversation, client: &[u8]) -> bool {
    // In front of a hardware address stands its type.
    *conversation.client == *client || conversation.client.get(1..) == Some(client)
}
