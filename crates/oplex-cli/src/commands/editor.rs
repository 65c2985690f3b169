//! `oplex editor`: a language server, and the JSON Schemas of what people write.

use std::io::Write;

use crate::args::{Editor, SchemaOf};
use crate::editor::{self, schema};
use crate::exit::{DONE, Outcome, because};

/// Writes the schema that is named.
pub(super) fn run(args: &Editor, out: &mut dyn Write) -> Outcome {
    let text = match args.schema {
        None => return serve(args),
        Some(SchemaOf::Plan) => schema::PLAN,
        Some(SchemaOf::Codebook) => schema::CODEBOOK,
        Some(SchemaOf::Message) => schema::MESSAGE,
        Some(SchemaOf::Release) => schema::RELEASE,
        Some(SchemaOf::Content) => schema::CONTENT,
    };
    out.write_all(text.as_bytes())?;
    Ok(DONE)
}

/// Serves the editor, at standard input and output.
pub(crate) fn serve(args: &Editor) -> Outcome {
    match editor::serve(args.trust.reach()) {
        Ok(()) => Ok(DONE),
        Err(why) => because(format!("the editor cannot be served: {why}")),
    }
}
