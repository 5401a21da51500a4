use crate::args::LspArgs;
use crate::lsp::serve;
use crate::outcome::{CommandError, Status};

pub fn run(args: &LspArgs) -> Result<Status, CommandError> {
    serve(args)?;
    Ok(Status::Fine)
}
