# Evaluates Podfiles and says what each declares, one JSON document a line; hooks are not run.
require 'json'
$told = { 'projects' => [], 'targets' => [], 'pods' => [], 'platforms' => [] }
$stack = []
def plain(item) = item.is_a?(Hash) ? item.to_h { |key, text| [key.to_s, text.is_a?(Array) ? text.map(&:to_s) : text.to_s] } : item.to_s
def project(path, map = {}) = $told['projects'] << [$stack.last.to_s, path.to_s, plain(map)]
def platform(name, version = '') = $told['platforms'] << [$stack.last.to_s, name.to_s, version.to_s]
def pod(name, *rest) = $told['pods'] << [$stack.last.to_s, name.to_s, rest.map { |item| plain(item) }]
def target(name, *)
  $told['targets'] << name.to_s
  $stack.push(name.to_s)
  yield if block_given?
  $stack.pop
end
alias abstract_target target
%i[source workspace use_frameworks! use_modular_headers! inherit! install!].each { |word| define_method(word) { |*, **| nil } }
%i[pre_install post_install post_integrate].each { |word| define_method(word) { |&block| nil } }
$stdin.each_line(chomp: true) do |path|
  reader, writer = IO.pipe
  fork do
    eval(File.read(path, encoding: 'UTF-8'), TOPLEVEL_BINDING, path)
    writer.write(JSON.generate($told))
    exit!(true)
  end
  writer.close
  puts reader.read
  Process.wait
end
