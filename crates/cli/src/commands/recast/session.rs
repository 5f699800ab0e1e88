//! The answers of a recast: those of the project, and others on purpose.

use super::RecastJob;
use crate::failure::Failure;
use crate::flow::answer_sources::{self, Person};
use crate::state;
use tinmold_platform::digest::digest_of;
use tinmold_project::answers::{AnswerSource, BuiltIns, Offers, Session};
use tinmold_project::recast::carry;

impl<'a> RecastJob<'a> {
    /// Starts the session with the recorded answers and those of the command line.
    pub(super) fn session(&self, is_attended: bool) -> Result<Session<'a>, Failure> {
        let (mold, args) = (&self.versions.new, &self.args.answers);
        let carried = carry(mold, &self.recorded.casting.answers);
        let mut gathered = answer_sources::gather(mold, args)?;
        for (given, recorded) in gathered.given.iter_mut().zip(carried.given) {
            // The environment answers what is new, and changes nothing by itself.
            let is_meant =
                given.as_ref().is_some_and(|given| !matches!(given.source, AnswerSource::Environment(_)));
            if recorded.is_some() && !is_meant {
                *given = recorded;
            }
        }
        let folder = self.recorded.casting.built_in.project_dir.clone();
        let offers = answer_sources::offers(mold, args, Some(folder), self.settings, is_attended)?;
        let anew = carried.gone.into_iter().map(|gone| (gone.key, gone.refusal)).collect();
        let offers = Offers { anew, tools: answer_sources::tools_of(mold, &gathered.given), ..offers };
        let mut session = gathered.into_session(mold, args, offers, self.built_ins())?;
        session.leave_secrets();
        Ok(session)
    }

    /// Returns the recorded values of the built-in names; what was not needed then is asked of git.
    fn built_ins(&self) -> BuiltIns {
        let recorded = self.recorded.built_ins();
        let mold = &self.versions.new.package;
        let lacks_name = recorded.user_name.is_empty() && mold.may_mention("user.");
        let lacks_email = recorded.user_email.is_empty() && mold.may_mention("user.email");
        if !lacks_name && !lacks_email {
            return recorded;
        }
        let person = answer_sources::built_ins(Person::asked(true));
        BuiltIns {
            user_name: if lacks_name { person.user_name } else { recorded.user_name },
            user_email: if lacks_email { person.user_email } else { recorded.user_email },
            ..recorded
        }
    }

    /// Returns the name under which answers are kept that were not written.
    fn draft_name(&self) -> String {
        let root = self.recorded.root.as_os_str().as_encoded_bytes();
        format!("recast-{}", &digest_of(root).to_string()[..16])
    }

    pub(super) fn draft(&self) -> Option<String> {
        state::draft(&self.versions.new, &self.draft_name())
    }

    pub(super) fn keep_draft(&self, draft: Option<&str>) {
        state::store_draft(&self.versions.new, &self.draft_name(), draft);
    }
}
